import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { ask, client, type Schemas } from "../../api/client";
import { useSession } from "../../api/queries";
import { faultOf } from "../../app/saving";
import { DoorPage } from "../../ui/DoorPage";
import { EntryField } from "../../ui/EntryField";
import { Problem } from "../../ui/Problem";
import { useForm } from "../../ui/useForm";

const PARTS: Record<string, string> = {
  owner: "an owner, who may do everything",
  adviser: "an adviser, who plans and looks after trials",
  field_hand: "a field hand, who records",
  grower: "a grower, who sees the own farm and records there",
  reader: "a reader, who looks on",
};

/** Where a link lets somebody in: the token stands after the sign # and so reaches no log. */
export function Welcome() {
  const [token] = useState(() => window.location.hash.slice(1));
  const session = useSession();
  const link = useQuery({
    queryKey: ["welcome", token],
    queryFn: () => ask(client.POST("/api/account-links/look", { body: { token } })),
    enabled: session.isSuccess,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  if (session.isPending || (link.isPending && !link.error)) return <p className="p-6">Opening …</p>;
  if (!link.data)
    return (
      <DoorPage title="This link does not open">
        <Problem>{faultOf(link.error ?? session.error).message}</Problem>
        <a className="plain justify-self-start" href="/">
          To the sign-in
        </a>
      </DoorPage>
    );
  if (link.data.kind === "reset") return <NewPassword token={token} link={link.data} />;
  return <Invited token={token} link={link.data} person={session.data?.person ?? null} />;
}

type Link = Schemas["WelcomeOut"];

function Invited({ token, link, person }: { token: string; link: Link; person: Schemas["PersonOut"] | null }) {
  const [own, setOwn] = useState(person !== null);
  return (
    <DoorPage title={link.workspace}>
      <p>
        {link.invited_by ? `${link.invited_by} invites you` : "You are invited"} to {link.workspace} as{" "}
        {PARTS[link.role]}
        {link.farms.length > 0 && `, on ${link.farms.join(", ")}`}.
      </p>
      {person && own ? (
        <Join token={token} person={person} onOther={() => setOwn(false)} />
      ) : (
        <NewAccount token={token} link={link} />
      )}
    </DoorPage>
  );
}

function Join({ token, person, onOther }: { token: string; person: Schemas["PersonOut"]; onOther: () => void }) {
  const cache = useQueryClient();
  const navigate = useNavigate();
  const form = useForm({}, async () => {
    const headers = { "X-Person": encodeURIComponent(person.username) };
    cache.setQueryData(["session"], await ask(client.POST("/api/account-links/join", { body: { token }, headers })));
    await navigate("/");
  });
  return (
    <form onSubmit={form.submit} className="sheet space-y-3 p-4">
      <p>
        You are signed in as <b>{person.name}</b>. Your account then has one workspace more, and you switch between them
        at the top.
      </p>
      <Problem>{form.trouble}</Problem>
      <div className="flex flex-wrap gap-2">
        <button type="submit" className="act" disabled={form.busy}>
          Join as {person.name}
        </button>
        <button type="button" className="plain" onClick={onOther}>
          I am somebody else
        </button>
      </div>
    </form>
  );
}

function NewAccount({ token, link }: { token: string; link: Link }) {
  const cache = useQueryClient();
  const navigate = useNavigate();
  const form = useForm({ name: link.name, username: "", password: "" }, async (entries) => {
    cache.clear();
    cache.setQueryData(
      ["session"],
      await ask(client.POST("/api/account-links/accept", { body: { token, ...entries } })),
    );
    await navigate("/");
  });
  return (
    <form onSubmit={form.submit} className="sheet space-y-3 p-4">
      <EntryField label="Your name" hint="As others see it." {...form.of("name")} />
      <EntryField label="Name you sign in with" autoComplete="username" {...form.of("username")} />
      <EntryField
        label="Password"
        type="password"
        autoComplete="new-password"
        hint="At least 10 signs, none of the common ones."
        {...form.of("password")}
      />
      <Problem>{form.trouble}</Problem>
      <button type="submit" className="act" disabled={form.busy}>
        Make my account
      </button>
    </form>
  );
}

function NewPassword({ token, link }: { token: string; link: Link }) {
  const [done, setDone] = useState(false);
  const form = useForm({ password: "" }, async ({ password }) => {
    await ask(client.POST("/api/account-links/accept", { body: { token, username: "", name: "", password } }));
    setDone(true);
  });
  if (done)
    return (
      <DoorPage title="The password is set">
        <p>All devices were signed out. Sign in as {link.username} with the new password.</p>
        <a className="act justify-self-start" href="/">
          To the sign-in
        </a>
      </DoorPage>
    );
  return (
    <DoorPage title="New password">
      <form onSubmit={form.submit} className="sheet space-y-3 p-4">
        <p>
          For <b>{link.name}</b>, who signs in as <b>{link.username}</b>.
        </p>
        <EntryField
          label="New password"
          type="password"
          autoComplete="new-password"
          hint="At least 10 signs, none of the common ones."
          {...form.of("password")}
        />
        <Problem>{form.trouble}</Problem>
        <button type="submit" className="act" disabled={form.busy}>
          Set it
        </button>
      </form>
    </DoorPage>
  );
}
