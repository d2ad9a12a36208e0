import { type ChangeEvent, useState } from "react";
import type { Schemas } from "../../api/client";
import { useHere } from "../../app/Gate";
import { writtenMoment } from "../../ui/writing";
import { BookFrame } from "./BookFrame";
import { BookList } from "./BookList";
import type { BookProps } from "./bookProps";
import { fresh, linesOf, takeBack } from "./lines";

/** More than the server takes in; the device says so before anything is queued. */
const MOST_BYTES = 12_000_000;

/** Photographs by strip: taken, named in a word, sent when there is a signal. */
export function PhotoBook(props: BookProps & { scouting: Schemas["ScoutingOut"] }) {
  const { trial, strip, outbox, scouting } = props;
  const { person } = useHere();
  const [caption, setCaption] = useState("");
  const [problem, setProblem] = useState("");
  const row = scouting.strips.find((stripScouting) => stripScouting.strip_id === strip.id);
  const owner = { person: person.username, trialId: trial.id, stripId: strip.id };
  const lines = linesOf({
    waitingKind: "photo",
    recordKind: "photo",
    stripId: strip.id,
    kept: row?.photos ?? [],
    waiting: outbox.waiting,
    words: (photo) => `${writtenMoment(photo.recorded_at)} ${photo.caption || "without words"}`,
    waitingWords: (photoWaiting) =>
      `${writtenMoment(photoWaiting.body.recorded_at)} ${photoWaiting.body.caption || "without words"}`,
  });

  async function take(event: ChangeEvent<HTMLInputElement>) {
    const file = event.target.files?.[0];
    event.target.value = "";
    if (!file) return;
    if (file.size > MOST_BYTES) return setProblem("This photograph is over 12 MB. Take it with a lower resolution.");
    setProblem("");
    const kept = await outbox.add({
      ...fresh(owner),
      kind: "photo",
      // a copy of the bytes: the file behind a picker may be gone before there is a signal
      file: new Blob([await file.arrayBuffer()], { type: file.type }),
      body: { strip_id: strip.id, caption: caption.trim(), recorded_at: new Date().toISOString() },
    });
    if (kept) setCaption("");
    // the camera's own copy may be all there is: the picture is shown again to be saved elsewhere
    else setProblem("This photograph is NOT saved. Keep it in the camera roll, make room, and take it in again.");
  }
  return (
    <BookFrame {...props} task="photo" layer="plan">
      <label className="mt-2 block">
        What it shows
        <input
          className="entry min-h-12"
          value={caption}
          maxLength={200}
          onChange={(event) => setCaption(event.target.value)}
        />
      </label>
      <p className="muted mt-1">The place where it was taken is not kept; the strip is.</p>
      {problem && (
        <p role="alert" className="font-medium text-error">
          {problem}
        </p>
      )}
      <BookList
        label="Photographs of this strip"
        lines={lines}
        onTakeBack={(id) =>
          void takeBack(
            lines.find((line) => line.id === id),
            outbox,
            owner,
          )
        }
      />
      <label className="act mt-1 grid min-h-20 cursor-pointer place-content-center text-xl focus-within:outline-2">
        Take a photograph
        <input
          type="file"
          accept="image/jpeg,image/png,image/webp"
          capture="environment"
          className="sr-only"
          onChange={take}
        />
      </label>
    </BookFrame>
  );
}
