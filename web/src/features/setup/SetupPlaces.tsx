import { NavLink } from "react-router";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { writtenMoment } from "../../ui/writing";

/** A moment as it is written on these pages. */
export const momentWords = (at: string) => writtenMoment(at, { year: true });

const FARM: [string, string][] = [
  ["/setup", "Fields"],
  ["/setup/seed-lots", "Seed lots"],
  ["/setup/machines", "Machines"],
  ["/setup/prices", "Prices"],
  ["/setup/variables", "Variables"],
  ["/setup/weather", "Weather"],
  ["/setup/stand-ins", "Stand-ins"],
];
const GROUP: [string, string][] = [
  ["/setup/people", "People"],
  ["/setup/rights", "Rights"],
];
const KEPT: [string, string][] = [["/setup/bin", "Bin"]];
const FARMS: [string, string][] = [["/setup/farms", "Farms"]];
const PAST: [string, string][] = [["/setup/history", "History"]];
const OWNERS: [string, string][] = [
  ["/setup/workspace", "Workspace"],
  ["/setup/backups", "Backups"],
  ["/setup/system", "System"],
];
const OWN: [string, string][] = [
  ["/setup/account", "Account"],
  ["/setup/devices", "Devices"],
];

/** The pages of Setup: of the farm, of its people and data, of oneself. */
export function SetupPlaces() {
  const { workspace } = useHere();
  const farm = FARM.filter(([to]) => to !== "/setup/prices" || may(workspace, "money"));
  const group = may(workspace, "design") ? [...GROUP, ...KEPT] : GROUP;
  const past = may(workspace, "people") ? PAST : [];
  const places = [
    ...farm,
    ...group,
    ...(may(workspace, "export") ? FARMS : []),
    ...past,
    ...(may(workspace, "settings") ? OWNERS : []),
    ...OWN,
  ];
  return (
    <nav aria-label="Setup" className="mb-3 flex flex-wrap gap-x-1 border-b border-base-300">
      {places.map(([to, name]) => (
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
