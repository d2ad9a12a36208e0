import type { Schemas } from "../../api/client";

type Place = Schemas["PlaceOut"];
type Plan = Schemas["SamplingPlanOut"] | null;

/** Places of this strip in the order of the walk: planned ones first, those in reserve after. */
export function inWalk(places: Place[], plan: Plan, stripId: string): Place[] {
  const order = (plan?.walk ?? []).filter((step) => step.strip_id === stripId).map((step) => step.place);
  const rank = (place: Place) => (place.extra ? order.length + place.number : order.indexOf(place.number));
  return [...places].sort((a, b) => rank(a) - rank(b));
}

/** The next place that has not been counted; those in reserve only once more counts are wanted. */
export function nextPlace(places: Place[], counted: Set<number>, more: number | null): Place | null {
  return places.find((place) => !counted.has(place.number) && (!place.extra || (more ?? 0) > 0)) ?? null;
}

type Props = { places: Place[]; next: Place | null; counted: number; byEye: boolean };

/** Where to count next. */
export function NextPlace({ places, next, counted, byEye }: Props) {
  if (byEye) return <p className="mt-1 text-center font-medium">Place chosen by eye: it is marked so.</p>;
  if (!places.length)
    return <p className="muted mt-1 text-center">No places drawn: make a sampling plan on the Stand page.</p>;
  const planned = places.filter((place) => !place.extra).length;
  return (
    <p className="mt-1 border-2 border-accent bg-(--paper) px-2 py-1 text-center" aria-live="polite">
      {next ? (
        <>
          <span className="font-semibold">
            {next.extra ? "In reserve" : `${counted + 1} of ${planned}`}, place {next.number}:
          </span>{" "}
          {next.words}
        </>
      ) : (
        <span className="font-semibold">All {counted} places counted. On to the next strip.</span>
      )}
    </p>
  );
}
