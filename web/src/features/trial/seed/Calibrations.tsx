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
  const result = useCalibrations(stage.trial.id);
  const [open, setOpen] = useState(false);
  if (!result.data) return <Waiting query={result} />;
  return (
    <>
      {result.data.missing.map((text) => (
        <p key={text} className="flex items-center gap-2 font-medium">
          <Flag className="h-5 w-5" /> {text}
        </p>
      ))}
      {!seed.lots.length && <p className="muted">Choose the lot first: each lot is calibrated by itself.</p>}
      {result.data.calibrations.map((calibration) => (
        <Calibration key={calibration.id} calibration={calibration} stage={stage} />
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

function Calibration({ calibration, stage }: { calibration: Schemas["CalibrationOut"]; stage: SeedProps["stage"] }) {
  return (
    <section aria-label={`Calibration of ${calibration.lot} with ${calibration.machine}`} className="sheet mt-2 p-2.5">
      <p className="flex flex-wrap items-baseline gap-x-4">
        <b>
          {calibration.lot}, {calibration.machine}
        </b>
        <span className="muted">{writtenDay(calibration.done_on)}</span>
        <span className="ml-auto text-lg font-semibold">
          <Worked working={calibration.working}>
            {calibration.mean}, {calibration.off}
          </Worked>
        </span>
        <span className={calibration.standing === "outside" ? "font-semibold text-error" : "font-semibold"}>
          {calibration.words}
        </span>
      </p>
      <p>
        {calibration.catches.length} {calibration.catches.length === 1 ? "catch" : "catches"} against{" "}
        {calibration.target.text} {calibration.target.unit}:{" "}
        {calibration.catches.map((row) => `${row.setting ? `${row.setting} → ` : ""}${row.rate}`).join(", ")}.
      </p>
      {calibration.standing === "outside" && calibration.corrected && (
        <p className="text-lg">
          Set it to <b>{calibration.corrected}</b> and catch again.
        </p>
      )}
      <p className="muted">{calibration.advice}</p>
      {stage.writable && (
        <VoidRecord
          trialId={stage.trial.id}
          kind="calibration"
          record={calibration}
          what={`the calibration of ${calibration.lot}`}
        />
      )}
    </section>
  );
}
