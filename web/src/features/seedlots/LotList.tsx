import { Fragment, useState } from "react";
import type { Schemas } from "../../api/client";
import { Worked } from "../../ui/working";
import { Attachments } from "../attachments/Attachments";
import { type Home, LotForm } from "./LotForm";

type Lot = Schemas["SeedLotOut"];
type Props = { home: Home; lots: Lot[]; crop: string; writable: boolean };

/** Seed lots with what is asked about each; a lot opens to be mended. */
export function LotList({ home, lots, crop, writable }: Props) {
  const [open, setOpen] = useState<string | null>(null);
  const [files, setFiles] = useState("");
  return (
    <>
      <table className="figures">
        <thead>
          <tr>
            <th>Crop</th>
            <th>Lot</th>
            <th className="num">Weight</th>
            <th className="num">Germination</th>
            <th className="num">Pure live seed</th>
            <th className="num">1000 seeds</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {lots.map((lot) => (
            <Fragment key={lot.id}>
              <tr>
                <td>{lot.crop_name}</td>
                <td>
                  {lot.title}
                  {lot.treated && <span className="muted">, treated</span>}
                </td>
                <td className="num">{lot.thousand_seed_weight.shown}</td>
                <td className="num">{lot.germination.shown ?? "no test"}</td>
                <td className="num">
                  <Worked working={lot.working}>{lot.pure_live || "–"}</Worked>
                </td>
                <td className="num">{lot.price && <Worked working={lot.working}>{lot.price}</Worked>}</td>
                <td className="whitespace-nowrap">
                  <button
                    type="button"
                    className="mr-3 underline"
                    aria-expanded={files === lot.id}
                    onClick={() => setFiles(files === lot.id ? "" : lot.id)}
                  >
                    Files<span className="sr-only"> of {lot.title}</span>
                  </button>
                  {writable && (
                    <button
                      type="button"
                      className="underline"
                      aria-expanded={open === lot.id}
                      onClick={() => setOpen(open === lot.id ? null : lot.id)}
                    >
                      {open === lot.id ? "Close" : "Mend"}
                      <span className="sr-only"> {lot.title}</span>
                    </button>
                  )}
                </td>
              </tr>
              {lot.questions.map((question) => (
                <tr key={question.code}>
                  <td />
                  <td colSpan={6} className={question.code === "treated" ? "" : "font-medium"}>
                    {question.code === "treated" ? "Caution: " : "? "}
                    {question.text}
                  </td>
                </tr>
              ))}
              {files === lot.id && (
                <tr>
                  <td colSpan={7}>
                    <Attachments of={{ lot: lot.id }} />
                  </td>
                </tr>
              )}
              {open === lot.id && (
                <tr>
                  <td colSpan={7}>
                    <LotForm key={lot.version} home={home} lot={lot} crop={lot.crop} onDone={() => setOpen(null)} />
                  </td>
                </tr>
              )}
            </Fragment>
          ))}
        </tbody>
      </table>
      {!lots.length && <p className="muted mt-1">No seed lot yet; its tag says all that is needed.</p>}
      {writable &&
        (open === "new" ? (
          <LotForm home={home} lot={null} crop={crop} onDone={() => setOpen(null)} />
        ) : (
          <button type="button" className="plain mt-2" onClick={() => setOpen("new")}>
            Add a seed lot
          </button>
        ))}
    </>
  );
}
