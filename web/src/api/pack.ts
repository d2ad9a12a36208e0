/**
 * Reading on a weak signal. What the field book reads lies in the pack as it was last seen; where the network has not answered
 * after two seconds, that is shown, and the answer is shown when it comes.
 */
export const PACK = "cultrix-pack";
export const PATIENCE_MS = 2_000;
/** The pack has newer answers than those shown. */
export const NEWER = "pack-newer";

const OF_BOOK = /\/fieldbook$/;
const FIRST = /^\/api\/(session|catalogue)$/;

/** Pages that would rather show what was last seen than wait; at the desk the newest answer is waited for. */
const impatient = (url: URL) => FIRST.test(url.pathname) || OF_BOOK.test(window.location.pathname);

const after = (ms: number) => new Promise<"late">((done) => setTimeout(() => done("late"), ms));

export async function readOrPack(request: Request): Promise<Response> {
  const network = globalThis.fetch(request);
  if (request.method !== "GET" || !("caches" in window) || !impatient(new URL(request.url))) return network;
  const first = await Promise.race([network, after(PATIENCE_MS)]);
  if (first !== "late") return first;
  const kept = await caches
    .open(PACK)
    .then((pack) => pack.match(request.url))
    .catch(() => undefined);
  if (!kept) return network;
  network.then(
    (answer) => answer.ok && window.dispatchEvent(new CustomEvent(NEWER, { detail: new URL(request.url).pathname })),
    () => undefined,
  );
  return kept;
}
