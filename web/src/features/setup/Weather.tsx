import { useQueryClient } from "@tanstack/react-query";
import { type ChangeEvent, useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useStation } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { faultOf, useSaving } from "../../app/saving";
import { Problem } from "../../ui/Problem";
import { Waiting } from "../../ui/Waiting";

type Station = Schemas["StationOut"];

/** Where daily weather comes from: the simulated station, or a file. */
export function Weather() {
  const { workspace } = useHere();
  const station = useStation(workspace.id);
  const cache = useQueryClient();
  const { save } = useSaving();
  const [problem, setProblem] = useState("");
  const writable = may(workspace, "design");
  const path = { params: { path: { workspace_id: workspace.id } } };
  async function put(call: () => Promise<Station>) {
    try {
      const fresh = await save(call);
      if (fresh) cache.setQueryData(["station", workspace.id], fresh);
      for (const key of ["today", "schedule"]) void cache.invalidateQueries({ queryKey: [key] });
      setProblem("");
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }
  const set = (part: Partial<Schemas["StationIn"]>) => {
    const now = station.data;
    if (!now) return;
    const body = {
      kind: now.kind ?? "simulated",
      name: now.name,
      seed: now.seed,
      southern: now.southern,
      version: now.version,
      ...part,
    };
    void put(() => ask(client.PUT("/api/workspaces/{workspace_id}/station", { ...path, body })));
  };
  function read(event: ChangeEvent<HTMLInputElement>) {
    const file = event.target.files?.[0];
    event.target.value = "";
    if (!file) return;
    const form = new FormData();
    form.append("file", file);
    void put(() =>
      ask(
        client.POST("/api/workspaces/{workspace_id}/weather-file", {
          ...path,
          // the generated type asks for text; the browser sends the file as the form it is
          body: form as never,
          bodySerializer: (body: unknown) => body as FormData,
        }),
      ),
    );
  }
  return (
    <section aria-labelledby="weather">
      <h1 id="weather">Weather</h1>
      <Waiting query={station} />
      {station.data && (
        <>
          <p>
            {station.data.kind
              ? `${station.data.name}, ${station.data.days} days from ${station.data.first} to ${station.data.last}.`
              : "No weather yet: visits fall due by days alone."}{" "}
            {station.data.wet && <span className="font-semibold">{station.data.wet}.</span>}
          </p>
          {station.data.kind === "simulated" && (
            <p className="muted text-sm">A simulated station that ships with the program; its weather is made up.</p>
          )}
          <Recent station={station.data} />
          {writable && (
            <div className="mt-2 flex flex-wrap items-center gap-2">
              {station.data.kind !== "simulated" && (
                <button type="button" className="plain" onClick={() => set({ kind: "simulated", name: "" })}>
                  Use the simulated station
                </button>
              )}
              <label className="plain cursor-pointer focus-within:outline-2">
                Read a CSV file
                <input type="file" accept=".csv,text/csv" className="sr-only" onChange={read} />
              </label>
              <label className="flex items-center gap-2">
                <input
                  type="checkbox"
                  checked={station.data.southern}
                  onChange={(event) => set({ southern: event.target.checked })}
                />
                Southern hemisphere
              </label>
              {station.data.days > 0 && (
                <a className="plain" href={`/api/workspaces/${workspace.id}/weather.csv`}>
                  Save as CSV
                </a>
              )}
            </div>
          )}
          <p className="muted text-sm">One line a day: date, min_c, max_c, rain_mm, soil_c.</p>
          <Problem>{problem}</Problem>
        </>
      )}
    </section>
  );
}

function Recent({ station }: { station: Station }) {
  const days = station.recent.slice(-7);
  if (!days.length) return null;
  return (
    <table aria-label="The last week" className="figures mt-1">
      <thead>
        <tr>
          <th>Day</th>
          <th className="num">Coldest</th>
          <th className="num">Warmest</th>
          <th className="num">Rain</th>
          <th className="num">Soil</th>
        </tr>
      </thead>
      <tbody>
        {days.map((day) => (
          <tr key={day.on}>
            <td className="whitespace-nowrap">{day.on}</td>
            <td className="num">{day.min.text}</td>
            <td className="num">{day.max.text}</td>
            <td className="num">{day.rain}</td>
            <td className="num">{day.soil?.text}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
