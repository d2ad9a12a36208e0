import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, NavLink, Outlet, useLocation, useNavigate } from "react-router";
import { usePreferences } from "../api/queries";
import { exportWaiting, sendWaiting, waitingOf, waitingOfOthers } from "../features/fieldbook/outbox";
import { saveText } from "../ui/csv";
import { Dialog } from "../ui/Dialog";
import { Flag } from "../ui/marks";
import { Steady } from "../ui/Steady";
import { WorkingDrawer } from "../ui/working";
import { useHere } from "./Gate";
import { Help } from "./Help";
import { Jump } from "./Jump";
import { Marks } from "./Marks";
import { forgetPack } from "./offline";
import { may } from "./rights";
import { useSaving } from "./saving";
import { useShortcuts } from "./shortcuts";
import { markSignedOut, tellServer } from "./signedOut";

const PLACES: [string, string][] = [
  ["/", "Today"],
  ["/trials", "Trials"],
  ["/bench", "Bench"],
  ["/ledger", "Ledger"],
  ["/setup", "Setup"],
];

/** A trial is one place, whichever of its stages is open: its head stays while they change. */
const placeOf = (pathname: string) => /^\/trials\/[0-9a-f-]{36}/.exec(pathname)?.[0] ?? pathname;

/** The slim bar and the place under it. */
export function Shell() {
  const here = useHere();
  const { pathname } = useLocation();
  const [open, setOpen] = useState<"jump" | "help" | null>(null);
  useShortcuts(here.person.single_keys, { jump: () => setOpen("jump"), help: () => setOpen("help") });
  return (
    <div className="flex min-h-screen flex-col">
      <a href="#place" className="sr-only focus:not-sr-only">
        Skip to the page
      </a>
      <header className="no-print flex min-h-11 flex-wrap items-center gap-x-4 gap-y-1 border-b-2 border-base-content bg-(--paper) px-3">
        <span className="tag flex items-center gap-1 text-xl">
          <Flag className="h-5 w-5" /> Cultrix
        </span>
        <nav aria-label="Places" className="flex">
          {PLACES.filter(([to]) => to !== "/ledger" || may(here.workspace, "money")).map(([to, name]) => (
            <NavLink
              key={to}
              to={to}
              end={to === "/"}
              className={({ isActive }) =>
                `border-b-4 px-2.5 py-2 font-medium ${isActive ? "border-accent" : "border-transparent hover:bg-base-200"}`
              }
            >
              {name}
            </NavLink>
          ))}
        </nav>
        <button type="button" className="plain" onClick={() => setOpen("jump")}>
          Jump to … <kbd className="muted">j</kbd>
        </button>
        <SaveState />
        <OnDevice />
        <span className="ml-auto" />
        <WorkspaceSwitch />
        <Switches />
        <button type="button" className="plain" aria-label="Shortcuts of this place" onClick={() => setOpen("help")}>
          ?
        </button>
        <Account />
      </header>
      <Marks workspace={here.workspace} />
      <main id="place" className="flex-1 px-3 pb-6 pt-2">
        <Steady key={placeOf(pathname)}>
          <Outlet context={here} />
        </Steady>
      </main>
      <WorkingDrawer />
      {open === "jump" && <Jump workspaceId={here.workspace.id} onClose={() => setOpen(null)} />}
      {open === "help" && <Help singleKeys={here.person.single_keys} onClose={() => setOpen(null)} />}
    </div>
  );
}

function SaveState() {
  const { state, message, undo, takeBack } = useSaving();
  const words = { idle: "", saving: "Saving …", saved: "Saved", failed: message }[state];
  return (
    <div className="flex min-w-0 items-center gap-2">
      <span
        role="status"
        className={`max-w-md truncate ${state === "failed" ? "font-medium text-error" : "muted"}`}
        title={words}
      >
        {words}
      </span>
      {undo && (
        <button type="button" className="plain" onClick={takeBack}>
          Undo: {undo.label}
        </button>
      )}
    </div>
  );
}

/** Records of this device that the server would not take, and records of other people: told of wherever one is. */
function OnDevice() {
  const { person } = useHere();
  const [words, setWords] = useState("");
  useEffect(() => {
    const look = async () => {
      const refused = (await waitingOf(person.username)).filter((item) => item.refused).length;
      const others = (await waitingOfOthers(person.username)).reduce((sum, item) => sum + item.count, 0);
      setWords(
        [refused ? `${refused} to correct` : "", others ? `${others} of other people` : ""].filter(Boolean).join(", "),
      );
    };
    const tick = () => void look().catch(() => undefined);
    tick();
    const timer = setInterval(tick, 15_000);
    return () => clearInterval(timer);
  }, [person.username]);
  return words ? (
    <Link className="act" to="/waiting">
      Records here: {words}
    </Link>
  ) : null;
}

/** Which workspace is shown, for people of several. */
function WorkspaceSwitch() {
  const { person, workspace, switchTo } = useHere();
  if (person.workspaces.length < 2) return null;
  return (
    <label className="flex items-center gap-1">
      Workspace
      <select className="entry w-auto" value={workspace.id} onChange={(event) => void switchTo(event.target.value)}>
        {person.workspaces.map((item) => (
          <option key={item.id} value={item.id}>
            {item.name}
          </option>
        ))}
      </select>
    </label>
  );
}

function Switches() {
  const { person } = useHere();
  const preferences = usePreferences();
  return (
    <>
      <label className="flex items-center gap-1">
        Units
        <select
          className="entry w-auto"
          value={person.unit_system}
          onChange={(event) => preferences.mutate({ unit_system: event.target.value as typeof person.unit_system })}
        >
          <option value="home">as here</option>
          <option value="metric">metric</option>
          <option value="us">US customary</option>
        </select>
      </label>
      <label className="flex items-center gap-1">
        Theme
        <select
          className="entry w-auto"
          value={person.theme}
          onChange={(event) => preferences.mutate({ theme: event.target.value as typeof person.theme })}
        >
          <option value="day">day</option>
          <option value="night">cab at night</option>
          <option value="sun">full sun</option>
        </select>
      </label>
    </>
  );
}

function Account() {
  const { person } = useHere();
  const cache = useQueryClient();
  const navigate = useNavigate();
  const place = useLocation();
  const [waiting, setWaiting] = useState(0);
  const [saved, setSaved] = useState(false);
  /** Signed out from here on, signal or not: the mark keeps the device shut until the server has been told. */
  async function leave() {
    markSignedOut(person.username);
    await tellServer({ person: person.username, at: "" });
    cache.clear();
    await forgetPack();
    if (place.pathname !== "/") await navigate("/");
    window.location.reload();
  }
  /** Records of this person that only this device has must not be left behind unseen. */
  async function signOut() {
    await sendWaiting(person.username).catch(() => undefined);
    const left = (await waitingOf(person.username).catch(() => [])).length;
    if (left) setWaiting(left);
    else await leave();
  }
  async function save() {
    saveText(`cultrix-records-${person.username}.json`, await exportWaiting(person.username));
    setSaved(true);
  }
  return (
    <>
      <Link className="plain" to="/setup/account" title={`Signed in as ${person.name}`}>
        Account
      </Link>
      <button type="button" className="plain" title={`Signed in as ${person.name}`} onClick={() => void signOut()}>
        Sign out {person.username}
      </button>
      {waiting > 0 && (
        <Dialog title="Records wait on this device" onClose={() => setWaiting(0)}>
          <p>
            {waiting} {waiting === 1 ? "record is" : "records are"} on this device only. Stay signed in until they are
            sent; they are sent by themselves as soon as the server can be reached.
          </p>
          <p className="muted mt-2">
            If the device must be given away, save them as a file first. They also stay on this device for{" "}
            {person.username} and are sent at the next sign-in.
          </p>
          <div className="mt-3 flex flex-wrap gap-2">
            <button type="button" className="act" onClick={() => setWaiting(0)}>
              Stay signed in
            </button>
            <button type="button" className="plain" onClick={() => void save()}>
              Save them as a file
            </button>
            <button type="button" className="plain" disabled={!saved} onClick={() => void leave()}>
              Sign out, they are saved
            </button>
          </div>
        </Dialog>
      )}
    </>
  );
}
