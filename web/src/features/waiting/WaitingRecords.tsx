import { useQuery } from "@tanstack/react-query";
import { type ChangeEvent, useCallback, useEffect, useState } from "react";
import { Link } from "react-router";
import { useHere } from "../../app/Gate";
import { roomLeft, roomWords } from "../../app/offline";
import { saveText } from "../../ui/csv";
import { writtenMoment } from "../../ui/writing";
import {
  exportWaiting,
  importWaiting,
  sendWaiting,
  type Waiting,
  waitingOf,
  waitingOfOthers,
} from "../fieldbook/outbox";
import { Correct } from "./Correct";
import { lineOf, momentOf } from "./describe";

/** Everything this device holds that the server has not taken: what waits, what was refused, and what is somebody else's. */
export function WaitingRecords() {
  const { person, workspace } = useHere();
  /** The workspace of a record, where it is not the one that is open. */
  const elsewhere = (item: Waiting) =>
    item.workspaceId && item.workspaceId !== workspace.id
      ? (person.workspaces.find((each) => each.id === item.workspaceId)?.name ?? "another workspace")
      : "";
  const [rows, setRows] = useState<Waiting[] | null>(null);
  const [others, setOthers] = useState<{ person: string; count: number }[]>([]);
  const [words, setWords] = useState("");
  const look = useCallback(async () => {
    setRows(await waitingOf(person.username));
    setOthers(await waitingOfOthers(person.username));
  }, [person.username]);
  const send = useCallback(async () => {
    const { held } = await sendWaiting(person.username);
    setWords(held);
    await look();
  }, [person.username, look]);
  useEffect(() => {
    void look().then(send);
    const timer = setInterval(() => void look(), 4_000);
    return () => clearInterval(timer);
  }, [look, send]);
  const room = useQuery({ queryKey: ["room"], queryFn: roomLeft });
  const refused = rows?.filter((row) => row.refused) ?? [];
  const waiting = rows?.filter((row) => !row.refused) ?? [];

  async function readFile(event: ChangeEvent<HTMLInputElement>) {
    const file = event.target.files?.[0];
    event.target.value = "";
    if (!file) return;
    try {
      const taken = await importWaiting(await file.text());
      setWords(taken === 1 ? "1 record was read from the file." : `${taken} records were read from the file.`);
      await look();
      void send();
    } catch (error) {
      setWords(error instanceof Error ? error.message : "The file could not be read.");
    }
  }
  return (
    <div className="mx-auto max-w-3xl">
      <h1>Records on this device</h1>
      <p className="mb-3" role="status">
        {rows === null
          ? "Looking …"
          : rows.length === 0
            ? "Everything you recorded here is on the server."
            : `${waiting.length} waiting to be sent, ${refused.length} to correct.`}{" "}
        {words}
      </p>
      {roomWords(room.data ?? null) && <p className="caution">{roomWords(room.data ?? null)}</p>}
      {refused.length > 0 && (
        <section aria-label="To correct">
          <h2>To correct</h2>
          <ul className="space-y-3">
            {refused.map((item) => (
              <li key={item.id} className="sheet p-3">
                {elsewhere(item) && <b>In {elsewhere(item)}</b>}
                <Correct waiting={item} onDone={() => void look().then(send)} />
              </li>
            ))}
          </ul>
        </section>
      )}
      {waiting.length > 0 && (
        <section aria-label="Waiting to be sent" className="mt-4">
          <h2>Waiting to be sent</h2>
          <ul className="sheet divide-y divide-base-300">
            {waiting.map((item) => (
              <li key={item.id} className="px-2.5 py-1.5">
                {lineOf(item)}
                {elsewhere(item) && <b> in {elsewhere(item)}</b>}
                <span className="muted block text-sm">
                  {writtenMoment(momentOf(item), { year: true })}
                  {item.trouble && `. Tried ${item.tries} times: ${item.trouble}`}
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
      {others.length > 0 && (
        <section aria-label="Of other people" className="mt-4">
          <h2>Of other people</h2>
          <ul className="sheet divide-y divide-base-300">
            {others.map((other) => (
              <li key={other.person} className="px-2.5 py-1.5">
                {other.count} {other.count === 1 ? "record" : "records"} of <b>{other.person}</b>: locked, sent when{" "}
                {other.person} signs in on this device.
              </li>
            ))}
          </ul>
        </section>
      )}
      <div className="mt-4 flex flex-wrap items-center gap-2">
        <button type="button" className="plain min-h-11" onClick={() => void send()}>
          Send now
        </button>
        <button
          type="button"
          className="plain min-h-11"
          disabled={!rows?.length}
          onClick={async () =>
            saveText(`cultrix-records-${person.username}.json`, await exportWaiting(person.username))
          }
        >
          Save them as a file
        </button>
        <label className="plain min-h-11 cursor-pointer content-center focus-within:outline-2">
          Read records from a file
          <input type="file" accept="application/json,.json" className="sr-only" onChange={readFile} />
        </label>
        <Link className="plain min-h-11 content-center" to="/trials">
          Trials
        </Link>
      </div>
    </div>
  );
}
