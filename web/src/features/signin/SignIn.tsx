import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { ask, client } from "../../api/client";
import { faultOf } from "../../app/saving";
import { Flag } from "../../ui/marks";

export function SignIn() {
  const cache = useQueryClient();
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const [shared, setShared] = useState(false);
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);

  async function submit(event: FormEvent) {
    event.preventDefault();
    setBusy(true);
    setProblem("");
    try {
      cache.setQueryData(["session"], await ask(client.POST("/api/session", { body: { username, password, shared } })));
    } catch (error) {
      setProblem(faultOf(error).message);
      setBusy(false);
    }
  }

  return (
    <main className="mx-auto grid min-h-screen max-w-sm content-center gap-4 p-6">
      <h1 className="flex items-center gap-2">
        <Flag /> Cultrix
      </h1>
      <p>Strip trials on working farms, from the question to a verdict on yield and money.</p>
      <form onSubmit={submit} className="sheet space-y-3 p-4">
        <div>
          <label htmlFor="username">Name you sign in with</label>
          <input
            id="username"
            className="entry"
            autoComplete="username"
            autoCapitalize="none"
            value={username}
            onChange={(event) => setUsername(event.target.value)}
          />
        </div>
        <div>
          <label htmlFor="password">Password</label>
          <input
            id="password"
            className="entry"
            type="password"
            autoComplete="current-password"
            value={password}
            onChange={(event) => setPassword(event.target.value)}
          />
        </div>
        <label className="flex min-h-11 items-center gap-2">
          <input type="checkbox" checked={shared} onChange={(event) => setShared(event.target.checked)} />
          Shared device: sign me out after half an hour without use
        </label>
        {problem && (
          <p role="alert" className="font-medium text-error">
            {problem}
          </p>
        )}
        <button type="submit" className="act" disabled={busy}>
          {busy ? "Signing in …" : "Sign in"}
        </button>
      </form>
    </main>
  );
}
