import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import type { Stage } from "../TrialFrame";
import { VoidRecord } from "../VoidRecord";
import { GroundCover } from "./GroundCover";

type Props = { stage: Stage; scouting: Schemas["ScoutingOut"] };

/** Photographs by strip; those of the selected strip alone when one is selected. */
export function Photos({ stage, scouting }: Props) {
  const { trial, writable, selected } = stage;
  const shown = scouting.strips.filter((strip) => strip.photos.length && (!selected || strip.strip_id === selected.id));
  return (
    <>
      {writable && trial.strips.length > 0 && (
        <Link
          className="act inline-block"
          to={`/trials/${trial.id}/fieldbook?task=photo${selected ? `&strip=${selected.order}` : ""}`}
        >
          Photograph in the field book
        </Link>
      )}
      {!shown.length && <p className="muted mt-2">No photograph{selected ? ` of strip ${selected.order}` : ""} yet.</p>}
      <div className="mt-3 grid grid-cols-2 gap-3 md:grid-cols-3 xl:grid-cols-4">
        {shown.flatMap((stripScouting) =>
          stripScouting.photos.map((photo) => {
            const strip = trial.strips.find((other) => other.id === stripScouting.strip_id);
            const words = `Strip ${strip?.order}: ${photo.caption || "photograph"}`;
            return (
              <figure key={photo.id} className="sheet p-1.5">
                <a href={`/api/photos/${photo.id}`} target="_blank" rel="noreferrer">
                  <img
                    src={`/api/photos/${photo.id}?size=small`}
                    alt={words}
                    width={photo.width}
                    height={photo.height}
                    className="h-auto w-full"
                    loading="lazy"
                  />
                </a>
                <figcaption className="text-sm">
                  {words}{" "}
                  <span className="muted">
                    {photo.recorded_at.slice(0, 10)}, {photo.recorded_by}
                  </span>{" "}
                  {writable && <VoidRecord trialId={trial.id} kind="photo" record={photo} what={words} />}
                  <GroundCover stage={stage} photo={photo} stripId={stripScouting.strip_id} words={words} />
                </figcaption>
              </figure>
            );
          }),
        )}
      </div>
    </>
  );
}
