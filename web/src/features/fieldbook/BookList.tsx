import { Link } from "react-router";
export type BookLine = {
  id: string;
  text: string;
  waiting: boolean;
  refused: string | null;
};

type Props = {
  label: string;
  lines: BookLine[];
  onTakeBack?: (id: string) => void;
};

/** What stands on this strip, newest first, each with where it lies: on this device or on the server. */
export function BookList({ label, lines, onTakeBack }: Props) {
  return (
    <ul aria-label={label} className="min-h-10 flex-1 overflow-y-auto">
      {[...lines].reverse().map((line) => (
        <li key={line.id} className="border-b border-base-300 px-1">
          <span className="flex items-center justify-between gap-2">
            <span className="min-w-0">{line.text}</span>
            <span className="flex shrink-0 items-center gap-2">
              <span className={line.waiting ? "font-semibold" : "muted"}>
                {line.refused ? "refused" : line.waiting ? "this device" : "server"}
              </span>
              {onTakeBack && !line.refused && (
                <button type="button" className="min-h-12 underline" onClick={() => onTakeBack(line.id)}>
                  Take back<span className="sr-only"> {line.text}</span>
                </button>
              )}
            </span>
          </span>
          {line.refused && (
            <span className="block text-error">
              {line.refused}{" "}
              <Link className="inline-block min-h-12 content-center underline" to="/waiting">
                Correct
              </Link>
            </span>
          )}
        </li>
      ))}
    </ul>
  );
}
