import type { Schemas } from "../../api/client";

type Props = { found: Schemas["ConfoundedOut"][]; belongings: Schemas["BelongingOut"][] };

/** What treatments cannot be told apart from, what they nearly cannot, and what it would take. */
export function Confounded({ found, belongings }: Props) {
  const open = found.filter((item) => !item.declared);
  if (!open.length && !belongings.length) return null;
  return (
    <section aria-label="What cannot be told apart" className="mt-4 max-w-3xl">
      <h3>What cannot be told apart</h3>
      {open.map((item) => (
        <p key={item.sentence} className={item.kind === "identical" ? "caution" : ""}>
          {item.sentence}
          {item.remedy && ` To tell them apart: ${item.remedy}.`}
        </p>
      ))}
      {belongings.map((item) => (
        <p key={item.part}>
          Belongs to the treatment: {item.words}. The answer is of both together. To tell them apart: {item.separate}.
        </p>
      ))}
    </section>
  );
}
