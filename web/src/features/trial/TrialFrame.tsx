import { useEffect, useState } from "react";
import { Link, Outlet, useLocation, useOutletContext, useParams, useSearchParams } from "react-router";
import type { Strip, Trial } from "../../api/client";
import { useTrial } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { OfWorkspace } from "../../app/OfWorkspace";
import { mayWrite } from "../../app/rights";
import { LAYERS, type Layer, Ribbon, rangeWords } from "../../ui/Ribbon";
import { type ReaderUnits, useReaderUnits } from "../../ui/readerUnits";
import { SeasonLine } from "../../ui/SeasonLine";
import { Steady } from "../../ui/Steady";
import { Waiting } from "../../ui/Waiting";
import { AmendmentDialog } from "./AmendmentDialog";
import { StripCard } from "./StripCard";
import { closingOf, TrialMenu } from "./TrialMenu";
import { useTrialWrites, type Writes } from "./writes";

const LAYER_OF_STAGE: Record<string, Layer> = {
  planting: "depth",
  stand: "stand",
  season: "stand",
  estimate: "estimate",
  harvest: "yield_",
  verdict: "yield_",
};

const LOOKS_ON = {
  plans: "What is planned is changed by an owner or adviser; what you record goes in from Planting to Harvest.",
  all: "You look on here; others record and change.",
};

export type Stage = Writes & {
  trial: Trial;
  reader: ReaderUnits;
  currency: string;
  writable: boolean;
  selected: Strip | null;
  select: (strip: Strip) => void;
};
export const useStage = () => useOutletContext<Stage>();

/** A trial's head: title, ribbon and season line, above whichever stage is open. */
export function TrialFrame() {
  const { trialId = "" } = useParams();
  const trial = useTrial(trialId);
  if (!trial.data) return <Waiting query={trial} />;
  return (
    <OfWorkspace trial={trial.data}>
      <Framed key={trialId} trial={trial.data} />
    </OfWorkspace>
  );
}

function Framed({ trial }: { trial: Trial }) {
  const { workspace } = useHere();
  const writes = useTrialWrites(trial);
  const [search, setSearch] = useSearchParams();
  const stage = useLocation().pathname.split("/").at(-1) ?? "";
  const [layer, setLayer] = useState<Layer>(LAYER_OF_STAGE[stage] ?? "plan");
  useEffect(() => setLayer(LAYER_OF_STAGE[stage] ?? "plan"), [stage]);
  useEffect(() => {
    document.title = `${trial.title} · Cultrix`;
    return () => {
      document.title = "Cultrix";
    };
  }, [trial.title]);
  const reader = useReaderUnits(trial);
  const currency = workspace.currency;
  const money = trial.may.includes("money");
  const closed = closingOf(trial);
  const writable = mayWrite(trial, stage) && !closed;
  const selected = trial.strips.find((strip) => strip.order === Number(search.get("strip"))) ?? null;
  const select = (strip: Strip) =>
    setSearch(
      (now) => {
        now.set("strip", String(strip.order));
        return now;
      },
      { replace: true },
    );
  return (
    <div>
      <div className="mb-1 flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 className="text-2xl">{trial.title}</h1>
        <span className="muted">
          {trial.crop_name}, harvest {trial.season}
          {trial.field ? `, ${trial.field.name}` : ""}
        </span>
        <span className="muted ml-auto text-sm">{rangeWords(trial.strips, layer)}</span>
        <label className="no-print flex items-center gap-1 whitespace-nowrap">
          Ribbon shows
          <select className="entry w-auto" value={layer} onChange={(event) => setLayer(event.target.value as Layer)}>
            {LAYERS.filter(([key]) => money || key !== "net_return").map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        </label>
        {trial.strips.length > 0 && (
          <Link
            className="plain no-print"
            to={`/trials/${trial.id}/fieldbook${selected ? `?strip=${selected.order}` : ""}`}
          >
            Field book
          </Link>
        )}
        {money && (
          <Link className="plain no-print" to={`/trials/${trial.id}/report`}>
            Report
          </Link>
        )}
        <TrialMenu trial={trial} />
      </div>
      <Ribbon
        strips={trial.strips}
        treatments={trial.treatments}
        layer={layer}
        selected={selected?.id}
        onSelect={select}
      />
      {selected && <StripCard strip={selected} trial={trial} />}
      <div className="mt-1.5">
        <SeasonLine trialId={trial.id} stages={trial.stages.filter(({ key }) => money || key !== "verdict")} />
      </div>
      {writes.frozen && <AmendmentDialog frozen={writes.frozen} />}
      {trial.archived && <p className="muted mt-1">In the archive: out of sight, and still counted in the ledger.</p>}
      {closed && (
        <p className="muted mt-1">
          Season closed by {closed.by}: nothing recorded here changes until it is opened again under “This trial”.
        </p>
      )}
      {!writable && !closed && <p className="muted mt-1">{LOOKS_ON[trial.may.includes("record") ? "plans" : "all"]}</p>}
      <div className="pt-3">
        <Steady key={stage}>
          <Outlet
            context={
              {
                trial,
                reader,
                currency,
                writable,
                selected,
                select,
                ...writes,
              } satisfies Stage
            }
          />
        </Steady>
      </div>
    </div>
  );
}
