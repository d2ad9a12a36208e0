import { useState } from "react";
import { ask, client } from "../../../api/client";
import { Problem } from "../../../ui/Problem";
import type { Stage } from "../TrialFrame";
import type { PassChoice } from "./PassCard";

const FORMATS = [
  ["pdf", "Layout sheet, PDF", "map, strips, stakes, pass card, cautions: print it for the cab"],
  ["geojson", "GeoJSON", "strips with treatment and target rates"],
  ["gpkg", "GeoPackage", "the same"],
  ["zip", "Shapefile, zipped", "the same; column names have at most ten letters in every format"],
  ["kml", "KML", "the same; all values as text, the strip's number as its name"],
  ["csv", "CSV", "the strip list without outlines"],
] as const;

/** Files for the printer, the machine and the colleague, and a finished layout back in. */
export function Files({ stage, choice }: { stage: Stage; choice: PassChoice }) {
  const { trial, write, problems, writable } = stage;
  const [busy, setBusy] = useState(false);

  async function take(file: File) {
    setBusy(true);
    await write("layout_file", (version, amendment) =>
      ask(
        client.POST("/api/trials/{trial_id}/layout-file", {
          params: { path: { trial_id: trial.id } },
          body: { version, amendment, file: file as unknown as string },
          bodySerializer: (body) => {
            const form = new FormData();
            form.append("version", String(body.version));
            form.append("amendment", body.amendment ?? "");
            form.append("file", file);
            return form;
          },
        }),
      ),
    );
    setBusy(false);
  }

  const placed = trial.layout.placed && trial.layout.georeferenced;
  return (
    <section aria-label="Files">
      {trial.strips.length === 0 ? (
        <p className="muted">Draw the strips first; the files follow from them.</p>
      ) : (
        <ul className="sheet divide-y divide-base-300">
          {FORMATS.map(([format, name, words]) => {
            const open = format === "pdf" || format === "csv" || placed;
            return (
              <li key={format} className="flex flex-wrap items-baseline gap-x-3 px-2.5 py-1.5">
                {open ? (
                  <a
                    className="worked min-w-44 font-medium"
                    href={`/api/trials/${trial.id}/strips-file?format=${format}&driving=${choice.driving}&reserve_pct=${Number(choice.reserve) || 0}`}
                    download
                  >
                    {name}
                  </a>
                ) : (
                  <span className="muted min-w-44">{name}</span>
                )}
                <span className="muted">{open ? words : "needs a boundary with latitude and longitude"}</span>
              </li>
            );
          })}
        </ul>
      )}
      {writable && trial.layout_bound.open && trial.treatments.length > 1 && (
        <div className="mt-4">
          <h3>A finished layout from a file</h3>
          <p className="muted">
            GeoJSON, GeoPackage, zipped Shapefile or KML with one outline a strip and a column “treat” that holds the
            letter; “strip” and “block” number them.
          </p>
          <label className="plain mt-1 inline-block">
            {busy ? "Reading …" : "Choose the file"}
            <input
              type="file"
              className="sr-only"
              accept=".geojson,.json,.gpkg,.zip,.kml"
              disabled={busy}
              onChange={(event) => {
                const file = event.target.files?.[0];
                event.target.value = "";
                if (file) void take(file);
              }}
            />
          </label>
          <Problem>{problems.layout_file}</Problem>
        </div>
      )}
    </section>
  );
}
