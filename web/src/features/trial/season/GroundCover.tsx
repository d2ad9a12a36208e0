import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas } from "../../../api/client";
import { useTrialChanged } from "../../../api/queries";
import { faultOf, useSaving } from "../../../app/saving";
import { Problem } from "../../../ui/Problem";
import type { Stage } from "../TrialFrame";

type Props = { stage: Stage; photo: Schemas["PhotoOut"]; stripId: string; words: string };

/** Ground cover from a photograph taken straight down: what was taken for crop is shown, the threshold is the person's. */
export function GroundCover(props: Props) {
  const [open, setOpen] = useState(false);
  return open ? (
    <Cover {...props} />
  ) : (
    <button type="button" className="underline" onClick={() => setOpen(true)}>
      Ground cover<span className="sr-only"> of {props.words}</span>
    </button>
  );
}

function Cover({ stage, photo, stripId, words }: Props) {
  const { trial, writable } = stage;
  const [threshold, setThreshold] = useState<number | null>(null);
  const [recorded, setRecorded] = useState(false);
  const [problem, setProblem] = useState("");
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const cover = useQuery({
    queryKey: ["photo-cover", photo.id, threshold],
    placeholderData: (before) => before,
    queryFn: () =>
      ask(
        client.GET("/api/photos/{photo_id}/cover", {
          params: { path: { photo_id: photo.id }, query: threshold === null ? {} : { threshold } },
        }),
      ),
  });
  if (!cover.data) return <p className="muted">{cover.error ? faultOf(cover.error).message : "Loading …"}</p>;
  const { cover_pct, words: how } = cover.data;
  const limit = threshold ?? cover.data.threshold;

  async function record() {
    try {
      await save(() =>
        ask(
          client.PUT("/api/trials/{trial_id}/plant-measures/{measure_id}", {
            params: { path: { trial_id: trial.id, measure_id: crypto.randomUUID() } },
            body: {
              strip_id: stripId,
              trait: "canopy",
              subject: "",
              value: { text: String(cover_pct), unit: "%" },
              area: { text: "", unit: "" },
              by_eye: false,
              recorded_at: photo.recorded_at,
            },
          }),
        ),
      );
      setRecorded(true);
      setProblem("");
      changed();
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }

  return (
    <section aria-label={`Ground cover of ${words}`} className="mt-1">
      <img
        src={`/api/photos/${photo.id}/cover.png?threshold=${limit}`}
        alt="What is taken for crop stands out, the rest is faded"
        className="h-auto w-full"
      />
      <p>
        Crop on <strong>{cover_pct} %</strong> of the picture. <span className="muted">{how}</span>
      </p>
      <label>
        Threshold of green
        <input
          type="range"
          className="w-full"
          min="-0.2"
          max="0.6"
          step="0.01"
          value={limit}
          onChange={(event) => {
            setThreshold(Number(event.target.value));
            setRecorded(false);
          }}
        />
      </label>
      {writable && (
        <button type="button" className="plain" disabled={recorded} onClick={() => void record()}>
          {recorded ? "Recorded" : "Record as ground cover"}
        </button>
      )}
      <Problem>{problem}</Problem>
    </section>
  );
}
