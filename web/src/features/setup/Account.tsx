import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client } from "../../api/client";
import { useSession } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { useSaving } from "../../app/saving";
import { EntryField } from "../../ui/EntryField";
import { Problem } from "../../ui/Problem";
import { useForm } from "../../ui/useForm";
import { SecondFactor } from "./SecondFactor";
import { SetupPlaces } from "./SetupPlaces";

/** One's own account: password, second factor, workspaces. */
export function Account() {
  const { person } = useHere();
  const session = useSession();
  return (
    <div className="mx-auto max-w-5xl">
      <SetupPlaces />
      <h1>{person.name}</h1>
      <p className="muted mb-4">Signs in as {person.username}.</p>
      <h2>Password</h2>
      <Password />
      <h2 className="mt-6">Second factor</h2>
      <SecondFactor />
      {session.data && <p className="muted mt-6 text-sm">Cultrix {session.data.version}</p>}
    </div>
  );
}

function Password() {
  const cache = useQueryClient();
  const { save } = useSaving();
  const [done, setDone] = useState(false);
  const form = useForm({ current: "", password: "" }, async ({ current, password }) => {
    setDone(false);
    cache.setQueryData(
      ["session"],
      await save(() => ask(client.PATCH("/api/password", { body: { current, new: password } }))),
    );
    form.clear();
    setDone(true);
  });
  return (
    <form onSubmit={form.submit} className="sheet grid max-w-xl gap-3 p-4 sm:grid-cols-2">
      <EntryField label="Present password" type="password" autoComplete="current-password" {...form.of("current")} />
      <EntryField
        label="New password"
        type="password"
        autoComplete="new-password"
        hint="At least 10 signs, none of the common ones."
        {...form.of("password")}
      />
      <div className="sm:col-span-2">
        <Problem>{form.trouble}</Problem>
        <button type="submit" className="act min-h-11" disabled={form.busy}>
          Change it
        </button>
        {done && (
          <span role="status" className="ml-3">
            Changed. Your other devices were signed out.
          </span>
        )}
      </div>
    </form>
  );
}
