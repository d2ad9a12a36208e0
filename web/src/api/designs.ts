import type { Schemas } from "./client";
import { useCatalogue } from "./queries";

type Design = Schemas["DesignOut"];

/** What holds of a trial before anything is drawn, and until the catalogue is there. */
const UNDRAWN: Omit<Design, "key"> = {
  name: "",
  rule: "",
  parts: [],
  crossed: false,
  drawn: true,
  replicated: true,
  blocked: true,
  blocks_asked: true,
  takes_conditions: true,
};

/** What the server says of a design: nobody here tells designs apart by name. */
export function useDesign(key: string): Omit<Design, "key"> {
  return useCatalogue().data?.designs.find((design) => design.key === key) ?? UNDRAWN;
}
