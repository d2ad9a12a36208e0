import type { Schemas } from "../api/client";
import { useSession } from "../api/queries";

/** What somebody must not take for real: a demo everybody can sign in to, a workspace for practice. */
export function Marks({ workspace }: { workspace?: Schemas["WorkspaceOut"] }) {
  const session = useSession();
  const words = session.data?.demo
    ? "Demo: people, places and numbers are made up, and everybody knows the passwords. Keep nothing of your own here."
    : workspace?.practice
      ? "Practice workspace: people, places and numbers are made up. Nothing of your own belongs here."
      : "";
  return words ? (
    <p className="no-print border-b border-base-300 bg-base-200 px-3 py-0.5 text-sm font-medium">{words}</p>
  ) : null;
}
