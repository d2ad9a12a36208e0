import type { Schemas, Trial } from "../api/client";

type Deed = Schemas["DeedOut"]["deed"];
export type Role = Schemas["RoleRightsOut"]["role"];

/** Parts in a workspace as they are called on pages; what each may is the server's table. */
export const ROLES: [Role, string][] = [
  ["owner", "Owner"],
  ["adviser", "Adviser"],
  ["field_hand", "Field hand"],
  ["grower", "Grower"],
  ["reader", "Reader"],
];
export const roleName = (role: string) => ROLES.find(([key]) => key === role)?.[1] ?? role;

/** Whether the signed-in person may do something in a workspace. */
export const may = (workspace: { deeds: Deed[] }, deed: Deed) => workspace.deeds.includes(deed);

const RECORDED = new Set(["planting", "stand", "season", "estimate", "harvest"]);

/** Whether the person may write on a stage of a trial: record in the season, else change what is planned. */
export const mayWrite = (trial: Pick<Trial, "may">, stage: string) =>
  trial.may.includes(RECORDED.has(stage) ? "record" : "design");
