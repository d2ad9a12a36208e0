import { type ReactNode, useCallback, useEffect, useState } from "react";
import { Outlet, useOutletContext } from "react-router";
import { Fault, type Person, type Schemas } from "../api/client";
import { setIdentity } from "../api/device";
import { queryClient, useSession } from "../api/queries";
import { SignIn } from "../features/signin/SignIn";
import { WorkingProvider } from "../ui/working";
import { claimPack, forgetPack } from "./offline";
import { SavingProvider } from "./saving";
import { signedOutMark, tellServer } from "./signedOut";

export type Here = { person: Person; workspace: Schemas["WorkspaceOut"] };
export const useHere = () => useOutletContext<Here>();

/** Lets a signed-in member of a workspace through; shows the sign-in otherwise, and nothing while a sign-out is not finished. */
export function Gate() {
  const [mark, setMark] = useState(signedOutMark);
  useEffect(() => {
    // signed out in another tab: this one shuts too
    const look = () => setMark(signedOutMark());
    window.addEventListener("storage", look);
    return () => window.removeEventListener("storage", look);
  }, []);
  const over = useCallback(() => {
    queryClient.clear();
    setMark(null);
  }, []);
  return mark ? <SignedOut person={mark.person} onOver={over} /> : <Entrance />;
}

const TELL_EVERY_MS = 4_000;

/** Signed out on this device; the server is told as soon as it can be reached, and until then nothing opens. */
function SignedOut({ person, onOver }: { person: string; onOver: () => void }) {
  const [tried, setTried] = useState(false);
  useEffect(() => {
    let gone = false;
    const tell = async () => {
      const mark = signedOutMark();
      const done = mark ? await tellServer(mark) : true;
      if (gone) return;
      if (done) onOver();
      setTried(true);
    };
    void tell();
    const timer = setInterval(() => void tell(), TELL_EVERY_MS);
    return () => {
      gone = true;
      clearInterval(timer);
    };
  }, [onOver]);
  return (
    <main className="mx-auto max-w-sm p-6">
      <h1>Signed out</h1>
      {tried && (
        <p role="status" className="mt-3">
          {person || "The last person"} is signed out on this device. The server cannot be reached, so it has not been
          told yet; it is told by itself as soon as there is a signal. Nobody can open this device until then.
        </p>
      )}
    </main>
  );
}

function Entrance() {
  const session = useSession();
  const person = session.data?.person;
  const theme = person?.theme ?? "day";
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  const nobody = session.isSuccess && !person;
  useEffect(() => {
    // answers that were still on their way when somebody signed out must not stay for the next one
    if (nobody) void forgetPack();
  }, [nobody]);
  if (session.isPending) return <p className="p-6">Opening …</p>;
  if (session.error && !person) {
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
    <OwnPack key={`${person.username} ${workspace.id}`} person={person} workspace={workspace}>
      <SavingProvider>
        <WorkingProvider>
          <Outlet context={{ person, workspace } satisfies Here} />
        </WorkingProvider>
      </SavingProvider>
    </OwnPack>
  );
}

/** Opens once what this device keeps for offline use is this person's; what somebody else left is cleared before. */
function OwnPack({ person, workspace, children }: Here & { children: ReactNode }) {
  const [ready, setReady] = useState(false);
  const { username } = person;
  setIdentity({ person: username, workspaceId: workspace.id });
  useEffect(() => {
    const open = () => setReady(true);
    // a browser that cannot clear its store cannot have filled it either
    claimPack(username, workspace.id, workspace.pack_days ?? 14).then(open, open);
    return () => setIdentity(null);
  }, [username, workspace.id, workspace.pack_days]);
  useEffect(() => {
    setIdentity({ person: username, workspaceId: workspace.id });
  }, [username, workspace.id]);
  return ready ? children : <p className="p-6">Opening …</p>;
}
