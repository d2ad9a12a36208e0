/** Which of a person's workspaces this device shows; kept for each person, shared by its tabs. */
import type { Person } from "../api/client";

const place = (username: string) => `workspace:${username}`;

/** The workspace last chosen here, if the person still belongs to it; else the first one. */
export function chosenWorkspace(person: Person) {
  const kept = localStorage.getItem(place(person.username));
  return person.workspaces.find((workspace) => workspace.id === kept) ?? person.workspaces[0];
}

export const chooseWorkspace = (username: string, id: string) => localStorage.setItem(place(username), id);
