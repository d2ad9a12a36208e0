import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { ask, client, Fault } from "../../api/client";
import { Marks } from "../../app/Marks";
import { forgetLateAnswers } from "../../app/offline";
import { faultOf } from "../../app/saving";
import { EntryField } from "../../ui/EntryField";
import { Flag } from "../../ui/marks";

export function SignIn() {
  const cache = useQueryClient();
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState<string | null>(null);
  const [shared, setShared] = useState(false);
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);

  async function submit(event: FormEvent) {
    event.preventDefault();
    setBusy(true);
    setProblem("");
    try {
      const body = { username, password, code: code ?? "", shared };
      const session = await ask(client.POST("/api/session", { body }));
      await forgetLateAnswers();
      cache.setQueryData(["session"], session);
    } catch (error) {
      if (error instanceof Fault && error.code === "code_needed" && code === null) setCode("");
      else setProblem(faultOf(error).message);
      setBusy(false);
    }
  }

  return (
    <>
      <Marks />
      <main className="mx-auto grid min-h-screen max-w-sm content-center gap-4 p-6">
        <h1 className="flex items-center gap-2">
          <Flag /> Cultrix
        </h1>
        <p>Strip trials on working farms, from the question to a verdict on yield and money.</p>
        <form onSubmit={submit} className="sheet space-y-3 p-4">
          <EntryField
            label="Name you sign in with"
            autoComplete="username"
            value={username}
            onChange={(text) => {
              setUsername(text);
              setCode(null);
            }}
          />
          <EntryField
            label="Password"
            type="password"
            autoComplete="current-password"
            value={password}
            onChange={setPassword}
          />
          {code !== null && (
            <EntryField
              label="Code of your second factor"
              autoComplete="one-time-code"
              hint="Six figures from your authenticator app, or a recovery code."
              value={code}
              onChange={setCode}
            />
          )}
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
        <p className="muted text-sm">
          Forgotten the password? An owner or adviser of your workspace makes a link for a new one, on Setup → People.
        </p>
      </main>
    </>
  );
}
