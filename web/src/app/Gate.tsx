import { useEffect } from "react";
import { Outlet, useOutletContext } from "react-router";
import { Fault, type Person, type Schemas } from "../api/client";
import { useSession } from "../api/queries";
import { SignIn } from "../features/signin/SignIn";
import { WorkingProvider } from "../ui/working";
import { SavingProvider } from "./saving";

export type Here = { person: Person; workspace: Schemas["WorkspaceOut"] };
export const useHere = () => useOutletContext<Here>();

/** Lets a signed-in member of a workspace through; shows the sign-in otherwise. */
export function Gate() {
  const session = useSession();
  const person = session.data?.person;
  const theme = person?.theme ?? "day";
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  if (session.isPending) return <p className="p-6">Opening …</p>;
  if (session.error) {
    const words = session.error instanceof Fault ? session.error.message : "The server cannot be reached.";
    return (
      <main className="p-6">
        <p role="alert">{words}</p>
        <button type="button" className="plain mt-3" onClick={() => session.refetch()}>
          Try again
        </button>
      </main>
    );
  }
  if (!person) return <SignIn />;
  const workspace = person.workspaces[0];
  if (!workspace) {
    return <main className="p-6">You belong to no workspace yet. Ask its lead to add {person.username}.</main>;
  }
  return (
    <SavingProvider>
      <WorkingProvider>
        <Outlet context={{ person, workspace } satisfies Here} />
      </WorkingProvider>
    </SavingProvider>
  );
}
