import { useQuery } from "@tanstack/react-query";
import { ask, client, type Schemas } from "../../../api/client";
import { hatchClass } from "../../../ui/inks";
import type { Stage } from "../TrialFrame";

type Ring = number[][];
const HATCH = [
  <path key="1" d="M0 7L7 0" strokeWidth="0.9" />,
  <circle key="2" cx="3.5" cy="3.5" r="1.1" fill="currentColor" stroke="none" />,
  <path key="3" d="M0 3.5H7" strokeWidth="1.2" />,
  <path key="4" d="M3.5 0V7" strokeWidth="1" />,
  <path key="5" d="M0 0L7 7M7 0L0 7" strokeWidth="0.6" />,
  <path key="6" d="M0 0L7 7" strokeWidth="0.9" />,
  <path key="7" d="M1 3.5H5" strokeWidth="1" />,
  <path key="8" d="M3.5 0V7M0 3.5H7" strokeWidth="0.6" />,
];

export function useMap(trial: Stage["trial"]) {
  return useQuery({
    queryKey: ["map", trial.id, trial.version],
    enabled: trial.layout.placed,
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/map", { params: { path: { trial_id: trial.id } } })),
  });
}

/** The field to scale, driving direction up: boundary, headland, guards, obstacles and every strip. */
export function FieldMap({ stage }: { stage: Stage }) {
  const map = useMap(stage.trial);
  if (!stage.trial.layout.placed || !map.data) return null;
  return <Drawn map={map.data} stage={stage} />;
}

function Drawn({ map, stage }: { map: Schemas["MapOut"]; stage: Stage }) {
  const { trial, select, selected } = stage;
  const xs = map.boundary.map((point) => point[0] ?? 0);
  const ys = map.boundary.map((point) => point[1] ?? 0);
  const [left, top] = [Math.min(...xs), Math.max(...ys)];
  const [wide, long] = [Math.max(...xs) - left, top - Math.min(...ys)];
  // the field lies on its side, driving direction to the right, so that long strips use the width of the page
  const factor = Math.min(640 / Math.max(long, 1), 330 / Math.max(wide, 1));
  const at = (x: number, y: number) => [(y - (top - long)) * factor, (x - left) * factor] as const;
  const points = (ring: Ring) =>
    ring
      .map(([x = 0, y = 0]) =>
        at(x, y)
          .map((value) => value.toFixed(1))
          .join(","),
      )
      .join(" ");
  const [width, height] = [long * factor, wide * factor];
  const byId = new Map(trial.treatments.map((treatment) => [treatment.id, treatment]));
  const strips = new Map(trial.strips.map((strip) => [strip.id, strip]));
  return (
    <figure className="mt-3">
      <svg
        viewBox={`-6 -6 ${(width + 70).toFixed(0)} ${(height + 34).toFixed(0)}`}
        className="w-full max-w-[46rem]"
        role="img"
        aria-label="Map of the layout, driving direction to the right"
      >
        <defs>
          {trial.treatments.map((treatment) => (
            <pattern
              key={treatment.id}
              id={`hatch-${treatment.position}`}
              width="7"
              height="7"
              patternUnits="userSpaceOnUse"
              className={hatchClass(treatment.position).split(" ")[0]}
            >
              <rect width="7" height="7" fill="var(--paper)" />
              <g style={{ color: "var(--ink)" }} stroke="currentColor" fill="none">
                {HATCH[treatment.position % HATCH.length]}
              </g>
            </pattern>
          ))}
        </defs>
        <polygon points={points(map.boundary)} fill="var(--color-base-200)" stroke="currentColor" strokeWidth="1.6" />
        {map.guards.map((ring) => (
          <polygon
            key={points(ring)}
            points={points(ring)}
            fill="var(--color-base-300)"
            stroke="currentColor"
            strokeWidth="0.5"
          >
            <title>Guard strip</title>
          </polygon>
        ))}
        {map.strips.map((mapStrip) => {
          const strip = strips.get(mapStrip.strip_id);
          const treatment = strip && byId.get(strip.treatment_id);
          if (!strip || !treatment) return null;
          const [x, y] = centre(mapStrip.ring, at);
          const chosen = selected?.id === strip.id;
          return (
            // the ribbon above is the keyboard's way to a strip; the map takes the pointer
            // biome-ignore lint/a11y/noStaticElementInteractions: see above
            <g key={mapStrip.strip_id} onClick={() => select(strip)} className="cursor-pointer">
              <title>{`Strip ${strip.order}, ${strip.block_name}, ${treatment.letter}, ${treatment.name}, ${strip.length?.text ?? ""}`}</title>
              <polygon
                points={points(mapStrip.ring)}
                fill={`url(#hatch-${treatment.position})`}
                stroke={chosen ? "var(--color-accent)" : "currentColor"}
                strokeWidth={chosen ? 3 : 0.7}
              />
              <polygon
                points={points(mapStrip.swath)}
                fill="none"
                stroke="currentColor"
                strokeWidth="0.4"
                strokeDasharray="3 2"
              />
              <rect x={x - 13} y={y - 6} width="26" height="12" fill="var(--paper)" />
              <text x={x} y={y + 3.5} textAnchor="middle" fontSize="10" fontWeight="600" fill="currentColor">
                {strip.order} {treatment.letter}
              </text>
            </g>
          );
        })}
        {[...map.obstacles, ...map.no_go].map((ring) => (
          <polygon
            key={points(ring)}
            points={points(ring)}
            fill="var(--paper)"
            stroke="currentColor"
            strokeDasharray="3 2"
            strokeWidth="1.4"
          >
            <title>Kept free</title>
          </polygon>
        ))}
        <Arrow x={width + 34} y={30} turn={90} label="drive" />
        {map.north_deg !== null && <Arrow x={width + 34} y={86} turn={(map.north_deg ?? 0) + 90} label="north" />}
        {map.gradient_deg !== null && (
          <Arrow x={width + 34} y={142} turn={(map.gradient_deg ?? 0) + 90} label="gradient" dashed />
        )}
        <path d={`M0 ${height + 12}H${map.scale_m * factor}`} stroke="currentColor" strokeWidth="3" />
        <text x={map.scale_m * factor + 6} y={height + 16} fontSize="11" fill="currentColor">
          {map.scale}
        </text>
      </svg>
      <figcaption className="muted text-sm">
        To scale. Dashed inside a strip: the harvested swath. Grey: guard strips. A click selects a strip.
      </figcaption>
    </figure>
  );
}

function centre(ring: Ring, at: (x: number, y: number) => readonly [number, number]): readonly [number, number] {
  const sum = ring.reduce((total, [x = 0, y = 0]) => [(total[0] ?? 0) + x, (total[1] ?? 0) + y], [0, 0]);
  return at((sum[0] ?? 0) / ring.length, (sum[1] ?? 0) / ring.length);
}

function Arrow({ x, y, turn, label, dashed }: { x: number; y: number; turn: number; label: string; dashed?: boolean }) {
  return (
    <g transform={`translate(${x},${y})`}>
      <g transform={`rotate(${turn})`} fill="none" stroke="currentColor" strokeWidth="1.6">
        <path d="M0 14V-14" strokeDasharray={dashed ? "3 2" : undefined} />
        <path d="M-4 -7L0 -15L4 -7" />
      </g>
      <text y="28" textAnchor="middle" fontSize="10" fill="currentColor">
        {label}
      </text>
    </g>
  );
}
