import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { useCalibrations } from "../../../api/queries";
import { Flag } from "../../../ui/marks";
import { Waiting } from "../../../ui/Waiting";
import { Worked } from "../../../ui/working";
import { writtenDay } from "../../../ui/writing";
import { VoidRecord } from "../VoidRecord";
import { CalibrationForm } from "./CalibrationForm";
import { MeterAndPlots } from "./MeterAndPlots";
import type { SeedProps } from "./Rates";

/** Catches of the trial's lots, how they stand, and which lot still asks for its own. */
export function Calibrations({ stage, seed }: SeedProps) {
  const found = useCalibrations(stage.trial.id);
  const [open, setOpen] = useState(false);
  if (!found.data) return <Waiting query={found} />;
  return (
    <>
      {found.data.missing.map((text) => (
        <p key={text} className="flex items-center gap-2 font-medium">
          <Flag className="h-5 w-5" /> {text}
        </p>
      ))}
      {!seed.lots.length && <p className="muted">Choose the lot first: each lot is calibrated by itself.</p>}
      {found.data.calibrations.map((calibration) => (
        <Calibration key={calibration.id} one={calibration} stage={stage} />
      ))}
      {stage.writable &&
        seed.lots.length > 0 &&
        (open ? (
          <CalibrationForm stage={stage} seed={seed} onDone={() => setOpen(false)} />
        ) : (
          <button type="button" className="act mt-3" onClick={() => setOpen(true)}>
            Enter catches
          </button>
        ))}
      <MeterAndPlots stage={stage} seed={seed} />
    </>
  );
}

function Calibration({ one, stage }: { one: Schemas["CalibrationOut"]; stage: SeedProps["stage"] }) {
  return (
    <section aria-label={`Calibration of ${one.lot} with ${one.machine}`} className="sheet mt-2 p-2.5">
      <p className="flex flex-wrap items-baseline gap-x-4">
        <b>
          {one.lot}, {one.machine}
        </b>
        <span className="muted">{writtenDay(one.done_on)}</span>
        <span className="ml-auto text-lg font-semibold">
          <Worked working={one.working}>
            {one.mean}, {one.off}
          </Worked>
        </span>
        <span className={one.standing === "outside" ? "font-semibold text-error" : "font-semibold"}>{one.words}</span>
      </p>
      <p>
        {one.catches.length} {one.catches.length === 1 ? "catch" : "catches"} against {one.target.text}{" "}
        {one.target.unit}: {one.catches.map((row) => `${row.setting ? `${row.setting} → ` : ""}${row.rate}`).join(", ")}
        .
      </p>
      {one.standing === "outside" && one.corrected && (
        <p className="text-lg">
          Set it to <b>{one.corrected}</b> and catch again.
        </p>
      )}
      <p className="muted">{one.advice}</p>
      {stage.writable && (
        <VoidRecord trialId={stage.trial.id} kind="calibration" record={one} what={`the calibration of ${one.lot}`} />
      )}
    </section>
  );
}
