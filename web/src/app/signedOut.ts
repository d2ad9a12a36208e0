/**
 * Signing out counts at once, signal or not: a mark on this device keeps it shut until the server has ended the session.
 * The cookie cannot be removed from here, so the mark stands until the server has answered.
 */
import { ask, client, Fault } from "../api/client";

const MARK = "signed-out";
export type Mark = { person: string; at: string };

export function signedOutMark(): Mark | null {
  try {
    const kept = JSON.parse(localStorage.getItem(MARK) ?? "null") as Mark | null;
    return kept?.person ? kept : null;
  } catch {
    return { person: "", at: "" }; // a mark that cannot be read is still a mark
  }
}

export const markSignedOut = (person: string) =>
  localStorage.setItem(MARK, JSON.stringify({ person, at: new Date().toISOString() } satisfies Mark));
export const clearMark = () => localStorage.removeItem(MARK);

/** Tell the server; true once the session is over, false when it could not be told yet. */
export async function tellServer(mark: Mark): Promise<boolean> {
  const headers = { "X-Person": encodeURIComponent(mark.person) };
  for (const last of [false, true]) {
    try {
      await ask(client.DELETE("/api/session", { headers }));
      clearMark();
      return true;
    } catch (error) {
      if (!(error instanceof Fault)) throw error;
      // over already, or somebody else's: either way nothing of this person is open here
      if (error.status === 401 || error.code === "other_person") {
        clearMark();
        return true;
      }
      if (error.code !== "csrf" || last) return false;
      await ask(client.GET("/api/session")).catch(() => undefined); // for a new token
    }
  }
  return false;
}
