import { useState } from "react";
import { Link, useParams } from "react-router";
import type { Trial } from "../../api/client";
import { useTrial } from "../../api/queries";
import { OfWorkspace } from "../../app/OfWorkspace";
import { Waiting } from "../../ui/Waiting";
import { Shares } from "./Shares";

const FILES = [
  ["xlsx", "Workbook, XLSX", "strips, means, differences, budgets, protocol"],
  ["csv", "Strips, CSV", "one row a strip with levels, stand, yield, net return"],
  ["zip", "Data package", "everything with schemas and units; read back it is the same trial"],
] as const;

/** The report of a trial: seen as it prints, saved, shared; and the data behind it. */
export function Report() {
  const { trialId = "" } = useParams();
  const trial = useTrial(trialId);
  if (!trial.data) return <Waiting query={trial} />;
  return (
    <OfWorkspace trial={trial.data}>
      <Sheet trial={trial.data} />
    </OfWorkspace>
  );
}

function Sheet({ trial }: { trial: Trial }) {
  const [record, setRecord] = useState(false);
  const trialId = trial.id;
  const address = `/api/trials/${trialId}/report?record=${record}`;
  return (
    <div className="grid gap-6 lg:grid-cols-[minmax(0,1fr)_24rem]">
      <div className="min-w-0">
        <h1>Report: {trial.title}</h1>
        <iframe
          title="Report as it prints"
          src={address}
          className="mt-2 h-[78vh] w-full border border-base-300 bg-white"
        />
      </div>
      <div className="space-y-5">
        <p>
          <Link className="plain" to={`/trials/${trialId}/verdict`}>
            Back to the verdict
          </Link>
        </p>
        <section aria-label="Print or save">
          <h2>Print or save</h2>
          <label className="mt-1 flex items-center gap-2">
            <input type="checkbox" checked={record} onChange={(event) => setRecord(event.target.checked)} />
            With the full record behind the page
          </label>
          <p className="mt-2 flex gap-3">
            <a className="act" href={`${address}&format=pdf`} download>
              Save as PDF
            </a>
            <a className="plain" href={address} target="_blank" rel="noreferrer">
              Open for printing
            </a>
          </p>
        </section>
        <Shares trialId={trialId} writable={trial.may.includes("share")} />
        <section aria-label="Data files">
          <h2>The data</h2>
          <ul className="sheet divide-y divide-base-300">
            {FILES.map(([format, name, words]) => (
              <li key={format} className="px-2.5 py-1.5">
                <a className="worked font-medium" href={`/api/trials/${trialId}/data-file?format=${format}`} download>
                  {name}
                </a>{" "}
                <span className="muted">{words}</span>
              </li>
            ))}
          </ul>
        </section>
      </div>
    </div>
  );
}
