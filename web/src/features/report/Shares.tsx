import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useShares } from "../../api/queries";
import { faultOf, useSaving } from "../../app/saving";
import { TextField } from "../../ui/fields";
import { Problem } from "../../ui/Problem";
import { Waiting } from "../../ui/Waiting";
import { writtenDayOf } from "../../ui/writing";

type Share = Schemas["ReportShareOut"];

/** Links for people without an account: what they show, how long they hold, and a way to close them. */
export function Shares({ trialId, writable }: { trialId: string; writable: boolean }) {
  const shares = useShares(trialId);
  const cache = useQueryClient();
  const { save } = useSaving();
  const [body, setBody] = useState({ days: "30", title: "", places: false, record: false });
  const [reportShare, setMade] = useState<Share | null>(null);
  const [problem, setProblem] = useState("");
  const run = async (work: () => Promise<Share>) => {
    setProblem("");
    try {
      const share = await save(work);
      setMade(share.path ? share : null);
      await cache.invalidateQueries({ queryKey: ["shares", trialId] });
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  };
  const share = () => {
    if (!/^\d{1,3}$/.test(body.days.trim())) {
      setProblem(`The days a link stays open are a whole number; got “${body.days}”.`);
      return;
    }
    void run(() =>
      ask(
        client.POST("/api/trials/{trial_id}/shares", {
          params: { path: { trial_id: trialId } },
          body: { ...body, days: Number(body.days) },
        }),
      ),
    );
  };
  const address = reportShare && `${window.location.origin}${reportShare.path}`;
  return (
    <section aria-label="Share">
      <h2>Share by link</h2>
      <p className="muted">
        Whoever has the link reads the report and nothing else. Names and free notes of the season never go along.
      </p>
      {writable && (
        <div className="sheet mt-2 space-y-2 p-3">
          <TextField
            label="Title to show in the place of the trial's"
            value={body.title}
            onCommit={(title) => setBody((now) => ({ ...now, title }))}
          />
          <TextField
            label="Days it stays open"
            value={body.days}
            inputMode="numeric"
            onCommit={(days) => setBody((now) => ({ ...now, days }))}
          />
          {(
            [
              ["places", "Show farm, field, map and other years"],
              ["record", "Show the full record"],
            ] as const
          ).map(([key, words]) => (
            <label key={key} className="flex items-center gap-2">
              <input
                type="checkbox"
                checked={body[key]}
                onChange={(event) => setBody((now) => ({ ...now, [key]: event.target.checked }))}
              />
              {words}
            </label>
          ))}
          <button type="button" className="act" onClick={share}>
            Make a link
          </button>
          <Problem>{problem}</Problem>
        </div>
      )}
      {address && (
        <div className="mt-2 border-l-4 border-accent pl-2.5">
          <p>Copy it now; it is shown this once.</p>
          <a className="worked break-all" href={address} target="_blank" rel="noreferrer" data-share>
            {address}
          </a>
        </div>
      )}
      <Waiting query={shares} />
      <ul className="mt-2 divide-y divide-base-300">
        {shares.data?.map((item) => (
          <li key={item.id} className="flex items-baseline justify-between gap-3 py-1">
            <span>
              {item.title || "the trial's title"},{" "}
              {item.state === "open" ? `open until ${writtenDayOf(item.expires_at)}` : item.state}
              <span className="muted text-sm">
                {" "}
                {item.places ? "with places" : "no places"}, {item.record ? "full record" : "one page"}, opened{" "}
                {item.opened} ×
              </span>
            </span>
            {writable && item.state === "open" && (
              <button
                type="button"
                className="underline"
                onClick={() =>
                  void run(() =>
                    ask(client.POST("/api/shares/{share_id}/revoke", { params: { path: { share_id: item.id } } })),
                  )
                }
              >
                Revoke<span className="sr-only"> the link made {writtenDayOf(item.created_at)}</span>
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
