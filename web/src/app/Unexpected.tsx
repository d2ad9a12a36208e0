import { Link, useRouteError } from "react-router";
import { Fault } from "../api/client";

/** A place that does not exist, or a fault nobody foresaw: what is wrong and where to go. */
export function Unexpected() {
  const error = useRouteError();
  const words =
    error instanceof Fault
      ? error.message
      : error instanceof Error
        ? "This page met a fault of its own. What was recorded is safe on the server. Load the page again."
        : "There is no such place here. The address may be old.";
  return (
    <main className="mx-auto max-w-xl p-6">
      <h1>Nothing to show</h1>
      <p className="my-3">{words}</p>
      <Link className="act inline-block" to="/">
        Go to Today
      </Link>
    </main>
  );
}
