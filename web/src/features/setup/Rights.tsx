import { useHere } from "../../app/Gate";
import { Waiting } from "../../ui/Waiting";
import { useRights } from "./Farms";
import { SetupPlaces } from "./SetupPlaces";

/** Who may do what: every part against every deed, as the server holds it. */
export function Rights() {
  const { workspace } = useHere();
  const rights = useRights();
  return (
    <div className="mx-auto max-w-5xl">
      <SetupPlaces />
      <h1>Who may do what in {workspace.name}</h1>
      <Waiting query={rights} />
      {rights.data && (
        <>
          <p>
            You are here as <b>{rights.data.roles.find(({ role }) => role === workspace.role)?.name.toLowerCase()}</b>,{" "}
            {workspace.farms === null ? "on all farms" : `on ${workspace.farms.join(", ") || "no farm yet"}`}. Parts are
            given under People, on all farms or on some.
          </p>
          <div className="mt-2 overflow-x-auto">
            <table className="figures">
              <thead>
                <tr>
                  <th>May</th>
                  {rights.data.roles.map((role) => (
                    <th key={role.role} className={role.role === workspace.role ? "bg-base-200" : ""}>
                      {role.name}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {rights.data.deeds.map(({ deed, name }) => (
                  <tr key={deed}>
                    <td>{name}</td>
                    {rights.data.roles.map((role) => (
                      <td key={role.role} className={role.role === workspace.role ? "bg-base-200" : ""}>
                        {role.deeds.includes(deed) ? "yes" : <span className="muted">no</span>}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <dl className="mt-3">
            {rights.data.roles.map((role) => (
              <div key={role.role} className="flex gap-2">
                <dt className="w-28 shrink-0 font-semibold">{role.name}</dt>
                <dd>{role.what}</dd>
              </div>
            ))}
          </dl>
        </>
      )}
    </div>
  );
}
