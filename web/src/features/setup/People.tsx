import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useHere } from "../../app/Gate";
import { may, ROLES, roleName } from "../../app/rights";
import { faultOf, useSaving } from "../../app/saving";
import { Dialog } from "../../ui/Dialog";
import { Problem } from "../../ui/Problem";
import { Waiting } from "../../ui/Waiting";
import { Farms } from "./Farms";
import { Invite, type NewLink, OpenLinks } from "./Invite";
import { momentWords, SetupPlaces } from "./SetupPlaces";

type Member = Schemas["MemberOut"];

/** The people of a workspace: who may, invites them, changes their part, lets them in again, hands over and removes. */
export function People() {
  const { workspace } = useHere();
  const people = useQuery({
    queryKey: ["people", workspace.id],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/people", { params: { path: { workspace_id: workspace.id } } })),
  });
  const [open, setOpen] = useState("");
  const [link, setLink] = useState<NewLink | null>(null);
  const lets = may(workspace, "people");
  const chosen = people.data?.find((person) => person.username === open);
  return (
    <div className="mx-auto max-w-5xl">
      <SetupPlaces />
      <h1>People of {workspace.name}</h1>
      <Waiting query={people} />
      <div className="overflow-x-auto">
        <table className="figures mt-1">
          <thead>
            <tr>
              <th>Name</th>
              <th>Signs in as</th>
              <th>Part</th>
              <th className="num">Trials in hand</th>
              <th>Last contact</th>
              {lets && <th />}
            </tr>
          </thead>
          <tbody>
            {people.data?.map((person) => (
              <tr key={person.username}>
                <td className="font-medium">{person.name}</td>
                <td>{person.username}</td>
                <td>
                  {person.active ? roleName(person.role) : <b>account shut</b>}
                  {person.farms.length > 0 && <span className="muted">, {person.farms.join(", ")}</span>}
                  {person.second_factor && <span className="muted">, second factor</span>}
                </td>
                <td className="num">{person.trials_in_hand || ""}</td>
                <td className="muted">{person.last_contact ? momentWords(person.last_contact) : "never"}</td>
                {lets && (
                  <td>
                    <button type="button" className="plain min-h-11" onClick={() => setOpen(person.username)}>
                      Change<span className="sr-only"> {person.name}</span>
                    </button>
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {lets && <Invite newLink={link} onMade={setLink} />}
      {lets && <OpenLinks />}
      {chosen && (
        <Dialog title={chosen.name} onClose={() => setOpen("")}>
          <Change
            member={chosen}
            others={people.data?.filter((person) => person !== chosen) ?? []}
            onLink={(newLink) => {
              setLink(newLink);
              setOpen("");
            }}
            onGone={() => setOpen("")}
          />
        </Dialog>
      )}
    </div>
  );
}

type ChangeProps = {
  member: Member;
  others: Member[];
  onLink: (link: NewLink) => void;
  onGone: () => void;
};

/** What can be done for, or about, one person. */
function Change({ member, others, onLink, onGone }: ChangeProps) {
  const { person, workspace } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  const [problem, setProblem] = useState("");
  const [role, setRole] = useState(member.role);
  const [farms, setFarms] = useState(member.farms);
  const [sure, setSure] = useState<"" | "remove" | "deactivate">("");
  const writers = others.filter((other) => other.active && (other.role === "owner" || other.role === "adviser"));
  const [to, setTo] = useState(writers[0]?.username ?? "");
  const path = { workspace_id: workspace.id, username: member.username };
  const self = member.username === person.username;
  async function run(work: () => Promise<unknown>) {
    setProblem("");
    try {
      await save(work);
      await cache.invalidateQueries({ queryKey: ["people", workspace.id] });
      if (self) await cache.invalidateQueries({ queryKey: ["session"] });
      return true;
    } catch (error) {
      setProblem(faultOf(error).message);
      return false;
    }
  }
  const post = (deed: "deactivate" | "reactivate" | "second-factor-off") =>
    run(() => ask(client.POST(`/api/workspaces/{workspace_id}/people/{username}/${deed}`, { params: { path } })));
  async function makeLink() {
    try {
      const result = await save(() =>
        ask(client.POST("/api/workspaces/{workspace_id}/people/{username}/reset-link", { params: { path } })),
      );
      onLink({ ...result, purpose: `New password for ${member.name}` });
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }
  return (
    <div className="space-y-4">
      <Problem>{problem}</Problem>
      <label>
        Part in {workspace.name}
        <select
          className="entry"
          data-first
          value={role}
          onChange={(event) => setRole(event.target.value as Member["role"])}
        >
          {ROLES.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
      </label>
      <Farms role={role} chosen={farms} onChange={setFarms} />
      <button
        type="button"
        className="act min-h-11"
        disabled={role === member.role && farms.join() === member.farms.join()}
        onClick={() =>
          void run(() =>
            ask(
              client.PATCH("/api/workspaces/{workspace_id}/people/{username}", {
                params: { path },
                body: { role, farms: role === "owner" ? [] : farms },
              }),
            ),
          )
        }
      >
        Change the part
      </button>
      {member.trials_in_hand > 0 && writers.length > 0 && (
        <div className="flex flex-wrap items-end gap-2">
          <label>
            {member.trials_in_hand} trials in hand, to
            <select className="entry" value={to} onChange={(event) => setTo(event.target.value)}>
              {writers.map((writer) => (
                <option key={writer.username} value={writer.username}>
                  {writer.name}
                </option>
              ))}
            </select>
          </label>
          <button
            type="button"
            className="plain min-h-11"
            onClick={() =>
              void run(() =>
                ask(
                  client.POST("/api/workspaces/{workspace_id}/people/{username}/hand-over", {
                    params: { path },
                    body: { to },
                  }),
                ),
              )
            }
          >
            Hand over
          </button>
        </div>
      )}
      <div className="flex flex-wrap gap-2">
        <button type="button" className="plain min-h-11" onClick={() => void makeLink()}>
          Link for a new password
        </button>
        {member.second_factor && !self && (
          <button type="button" className="plain min-h-11" onClick={() => void post("second-factor-off")}>
            Take the second factor away
          </button>
        )}
        {!member.active && (
          <button type="button" className="plain min-h-11" onClick={() => void post("reactivate")}>
            Open the account again
          </button>
        )}
        <button type="button" className="plain min-h-11" onClick={() => setSure("remove")}>
          Remove from {workspace.name}
        </button>
        {member.active && !self && (
          <button type="button" className="plain min-h-11" onClick={() => setSure("deactivate")}>
            Deactivate the account
          </button>
        )}
      </div>
      {sure && (
        <div className="caution">
          <p>
            {sure === "remove"
              ? `${member.name} will not see ${workspace.name} any more. The account stays, and records stay under this name.`
              : `${member.name} is signed out everywhere and cannot sign in any more; open links end. Records stay under this name. What waits on a device is not sent until the account is opened again.`}
          </p>
          <button
            type="button"
            className="act mt-2"
            onClick={async () => {
              const done =
                sure === "deactivate"
                  ? await post("deactivate")
                  : await run(() =>
                      ask(client.DELETE("/api/workspaces/{workspace_id}/people/{username}", { params: { path } })),
                    );
              if (done) onGone();
              setSure("");
            }}
          >
            {sure === "remove" ? `Remove ${member.name}` : `Deactivate ${member.name}`}
          </button>
        </div>
      )}
    </div>
  );
}
