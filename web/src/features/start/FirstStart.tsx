import { useQueryClient } from "@tanstack/react-query";
import { ask, client } from "../../api/client";
import { DoorPage } from "../../ui/DoorPage";
import { EntryField } from "../../ui/EntryField";
import { Problem } from "../../ui/Problem";
import { useForm } from "../../ui/useForm";
import { NEW_WORKSPACE, WorkspaceFields } from "./WorkspaceFields";

/** The first page of an installation that nobody uses yet: its first person and workspace. */
export function FirstStart() {
  const cache = useQueryClient();
  const form = useForm({ code: "", name: "", username: "", password: "", ...NEW_WORKSPACE }, async (entries) => {
    cache.setQueryData(["session"], await ask(client.POST("/api/first-start", { body: entries })));
  });
  return (
    <DoorPage title="First start">
      <p>
        Nobody has an account here yet. The one you make now owns the first workspace and this installation; other
        people are invited later.
      </p>
      <form onSubmit={form.submit} className="sheet space-y-3 p-4">
        <EntryField
          label="Code from the terminal"
          hint="The server printed it where it was started."
          autoComplete="off"
          {...form.of("code")}
        />
        <EntryField label="Your name" hint="As others see it." {...form.of("name")} />
        <EntryField label="Name you sign in with" autoComplete="username" {...form.of("username")} />
        <EntryField
          label="Password"
          type="password"
          autoComplete="new-password"
          hint="At least 10 signs, none of the common ones. A few words are easiest to keep."
          {...form.of("password")}
        />
        <WorkspaceFields of={form.of} />
        <Problem>{form.trouble}</Problem>
        <button type="submit" className="act" disabled={form.busy}>
          {form.busy ? "Starting …" : "Start"}
        </button>
      </form>
    </DoorPage>
  );
}
