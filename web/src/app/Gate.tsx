import { createContext, type ReactNode, useCallback, useContext, useEffect, useState } from "react";
import { Outlet, useNavigate, useOutletContext } from "react-router";
import { Fault, type Person, type Schemas } from "../api/client";
import { setIdentity } from "../api/device";
import { queryClient, useSession } from "../api/queries";
import { SecondFactor } from "../features/setup/SecondFactor";
import { SignIn } from "../features/signin/SignIn";
import { FirstStart } from "../features/start/FirstStart";
import { DoorPage } from "../ui/DoorPage";
import { WorkingProvider } from "../ui/working";
import { setWriting } from "../ui/writing";
import { claimPack, forgetPack } from "./offline";
import { SavingProvider } from "./saving";
import { markSignedOut, signedOutMark, tellServer } from "./signedOut";
import { chooseWorkspace, chosenWorkspace } from "./workspaceChoice";

export type Here = {
  person: Person;
  workspace: Schemas["WorkspaceOut"];
  /** Show another of the person's workspaces: nothing that was read of this one stays in sight. */
  switchTo: (workspaceId: string, to?: string) => Promise<void>;
};
const HereContext = createContext<Here | null>(null);

/** Who is here, in which workspace; on every page, however deep it lies. */
export function useHere(): Here {
  const outlet = useOutletContext<Here>();
  return useContext(HereContext) ?? outlet;
}

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
  const navigate = useNavigate();
  const [chosen, setChosen] = useState("");
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
  if (!person) return session.data?.first_start ? <FirstStart /> : <SignIn />;
  const workspace = person.workspaces.find((item) => item.id === chosen) ?? chosenWorkspace(person);
  if (!workspace) return <Nowhere person={person} />;
  const switchTo = async (id: string, to = "/") => {
    chooseWorkspace(person.username, id);
    queryClient.removeQueries({ predicate: (query) => query.queryKey[0] !== "session" });
    setChosen(id);
    await navigate(to);
  };
  setWriting(workspace.writing);
  const here: Here = { person, workspace, switchTo };
  if (workspace.shut) return <Shut person={person} workspace={workspace} switchTo={switchTo} />;
  return (
    <OwnPack key={`${person.username} ${workspace.id}`} person={person} workspace={workspace}>
      <SavingProvider>
        <WorkingProvider>
          <HereContext.Provider value={here}>
            <Outlet context={here} />
          </HereContext.Provider>
        </WorkingProvider>
      </SavingProvider>
    </OwnPack>
  );
}

/** Somebody with an account and no workspace, such as one who was taken out of the last one. */
function Nowhere({ person }: { person: Person }) {
  const leave = async () => {
    markSignedOut(person.username);
    await tellServer({ person: person.username, at: "" });
    window.location.assign("/");
  };
  return (
    <DoorPage title="No workspace">
      <p>
        {person.name} belongs to no workspace. Ask a lead for an invitation, and open its link on this device. What you
        recorded stays under your name.
      </p>
      <button type="button" className="plain justify-self-start" onClick={() => void leave()}>
        Sign out {person.username}
      </button>
    </DoorPage>
  );
}

/** A workspace whose leads need a second factor, before this lead has one. */
function Shut({ person, workspace, switchTo }: Here) {
  const others = person.workspaces.filter((item) => item.id !== workspace.id && !item.shut);
  setIdentity({ person: person.username, workspaceId: workspace.id });
  return (
    <DoorPage title={workspace.name}>
      <p>The leads of {workspace.name} sign in with a second factor. Set yours up, then go on.</p>
      <SavingProvider>
        <SecondFactor />
      </SavingProvider>
      {others.map((other) => (
        <button key={other.id} type="button" className="plain" onClick={() => void switchTo(other.id)}>
          Go to {other.name}
        </button>
      ))}
    </DoorPage>
  );
}

/** Opens once what this device keeps for offline use is this person's; what somebody else left is cleared before. */
function OwnPack({ person, workspace, children }: Omit<Here, "switchTo"> & { children: ReactNode }) {
  const [ready, setReady] = useState(false);
  const { username } = person;
  const of = person.workspaces.map((item) => item.id).join(" ");
  setIdentity({ person: username, workspaceId: workspace.id });
  useEffect(() => {
    const open = () => setReady(true);
    // a browser that cannot clear its store cannot have filled it either
    claimPack(username, of, workspace.pack_days ?? 14).then(open, open);
    return () => setIdentity(null);
  }, [username, of, workspace.pack_days]);
  useEffect(() => {
    setIdentity({ person: username, workspaceId: workspace.id });
  }, [username, workspace.id]);
  return ready ? children : <p className="p-6">Opening …</p>;
}
