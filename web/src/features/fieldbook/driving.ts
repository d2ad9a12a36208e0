import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas, type Strip, type Trial } from "../../api/client";

type Way = Schemas["PassCardOut"]["driving"];
type Pass = Schemas["PassOut"];

export type Driving = {
  way: Way;
  setWay: (way: Way) => void;
  /** Strips in driving order; empty until the pass card is there, and without a signal. */
  order: number[];
  passOf: (strip: number) => Pass | undefined;
  /** Whether the setting changes on the way to a strip. */
  changesAt: (strip: number) => boolean;
};

/** Strips by the order of the pass card; strips it does not know come last, in field order. */
export function inOrder(strips: Strip[], order: number[]): Strip[] {
  const place = new Map(order.map((number, index) => [number, index]));
  return [...strips].sort(
    (a, b) => (place.get(a.order) ?? order.length + a.order) - (place.get(b.order) ?? order.length + b.order),
  );
}

export function useDriving(trial: Trial): Driving {
  const [way, setWay] = useState<Way>("as_laid");
  const card = useQuery({
    queryKey: ["passes", trial.id, trial.version, { driving: way, reserve_pct: 0 }],
    placeholderData: keepPreviousData,
    queryFn: () =>
      ask(
        client.GET("/api/trials/{trial_id}/pass-card", {
          params: { path: { trial_id: trial.id }, query: { driving: way, reserve_pct: 0 } },
        }),
      ),
  });
  const passes = card.data?.passes ?? [];
  return {
    way,
    setWay,
    order: [...new Set(passes.map((onePass) => onePass.strip))],
    passOf: (strip) => passes.find((onePass) => onePass.strip === strip),
    changesAt: (strip) => passes.some((onePass) => onePass.strip === strip && onePass.change),
  };
}
