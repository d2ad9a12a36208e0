import { NavLink } from "react-router";
import { useHere } from "../../app/Gate";

/** A moment as it is written on these pages. */
export const momentWords = (at: string) =>
  new Date(at).toLocaleString("en-GB", {
    day: "numeric",
    month: "short",
    year: "numeric",
    hour: "2-digit",
    minute: "2-digit",
  });

/** The pages of Setup. */
export function SetupPlaces() {
  const { workspace } = useHere();
  const places = [
    ["/setup", "Farm"],
    ["/setup/devices", "Devices"],
    ...(workspace.role === "lead" ? [["/setup/system", "System"]] : []),
  ] as const;
  return (
    <nav aria-label="Setup" className="mb-3 flex flex-wrap gap-x-1 border-b border-base-300">
      {places.map(([to = "", name]) => (
        <NavLink
          key={to}
          to={to}
          end
          className={({ isActive }) =>
            `min-h-11 content-center border-b-4 px-2.5 ${isActive ? "border-accent font-semibold" : "border-transparent hover:bg-base-200"}`
          }
        >
          {name}
        </NavLink>
      ))}
    </nav>
  );
}
