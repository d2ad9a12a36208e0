import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useHere } from "../../app/Gate";
import { ROLES, roleName } from "../../app/rights";
import { useSaving } from "../../app/saving";
import { EntryField } from "../../ui/EntryField";
import { ChoiceField } from "../../ui/fields";
import { Problem } from "../../ui/Problem";
import { useForm } from "../../ui/useForm";
import { Farms } from "./Farms";
import { momentWords } from "./SetupPlaces";

/** A link that was just made: the only time that it can be seen. */
export type NewLink = Schemas["NewAccountLinkOut"] & { purpose: string };
type Role = Schemas["AccountLinkIn"]["role"];

export function Invite({ newLink, onMade }: { newLink: NewLink | null; onMade: (link: NewLink) => void }) {
  const { workspace } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  const [farms, setFarms] = useState<string[]>([]);
  const form = useForm({ name: "", role: "field_hand", email: "", farms: "" }, async (entries) => {
    const body = { ...entries, role: entries.role as Role, farms: entries.role === "owner" ? [] : farms };
    const link = await save(() =>
      ask(
        client.POST("/api/workspaces/{workspace_id}/account-links", {
          params: { path: { workspace_id: workspace.id } },
          body,
        }),
      ),
    );
    onMade({ ...link, purpose: `Invitation for ${link.link.name}` });
    form.clear();
    setFarms([]);
    await cache.invalidateQueries({ queryKey: ["account-links", workspace.id] });
  });
  const role = form.of("role");
  return (
    <section aria-labelledby="invite" className="mt-6">
      <h2 id="invite">Invite somebody</h2>
      <form onSubmit={form.submit} className="sheet grid items-start gap-3 p-3 sm:grid-cols-3">
        <EntryField label="Name" {...form.of("name")} />
        <ChoiceField label="Part" value={role.value} error={role.error} options={ROLES} onCommit={role.onChange} />
        <EntryField
          label="Mail, if you like"
          type="email"
          hint="Where the server sends mail, the link goes there."
          {...form.of("email")}
        />
        <div className="sm:col-span-3">
          <Farms role={role.value as Role} chosen={farms} onChange={setFarms} error={form.of("farms").error} />
        </div>
        <div className="sm:col-span-3">
          <Problem>{form.trouble}</Problem>
          <button type="submit" className="act min-h-11" disabled={form.busy}>
            Make a link
          </button>
        </div>
      </form>
      {newLink && <Made link={newLink} />}
    </section>
  );
}

function Made({ link }: { link: NewLink }) {
  const [copied, setCopied] = useState(false);
  const address = `${window.location.origin}${link.path}`;
  return (
    <div className="sheet mt-2 space-y-2 border-2 border-accent p-3" role="status">
      <p>
        <b>{link.purpose}.</b>{" "}
        {link.mailed
          ? `Sent to ${link.link.email}.`
          : "Pass it on yourself, by message or on paper: it is shown this one time."}{" "}
        It works once, until {momentWords(link.link.expires_at)}. {link.trouble}
      </p>
      <label className="block">
        Link
        <input
          className="entry font-mono text-sm"
          readOnly
          value={address}
          onFocus={(event) => event.currentTarget.select()}
        />
      </label>
      <button
        type="button"
        className="plain min-h-11"
        onClick={() => void navigator.clipboard?.writeText(address).then(() => setCopied(true))}
      >
        {copied ? "Copied" : "Copy"}
      </button>
    </div>
  );
}

/** Links that still let somebody in, to be called back. */
export function OpenLinks() {
  const { workspace } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  const links = useQuery({
    queryKey: ["account-links", workspace.id],
    queryFn: () =>
      ask(
        client.GET("/api/workspaces/{workspace_id}/account-links", {
          params: { path: { workspace_id: workspace.id } },
        }),
      ),
  });
  if (!links.data?.length) return null;
  const revoke = async (id: string) => {
    const path = { workspace_id: workspace.id, link_id: id };
    await save(() =>
      ask(client.DELETE("/api/workspaces/{workspace_id}/account-links/{link_id}", { params: { path } })),
    ).catch(() => undefined);
    await cache.invalidateQueries({ queryKey: ["account-links", workspace.id] });
  };
  return (
    <section aria-labelledby="open-links" className="mt-6">
      <h2 id="open-links">Open links</h2>
      <ul className="sheet divide-y divide-base-300">
        {links.data.map((link) => (
          <li key={link.id} className="flex flex-wrap items-center justify-between gap-3 px-2.5 py-1">
            <span>
              <b>{link.name}</b>,{" "}
              {link.kind === "invite"
                ? `invited as ${roleName(link.role).toLowerCase()}${link.farms.length ? ` on ${link.farms.join(", ")}` : ""}`
                : "new password"}
              <span className="muted">
                {" "}
                {link.made_by && `by ${link.made_by}, `}until {momentWords(link.expires_at)}
              </span>
            </span>
            <button type="button" className="plain min-h-11" onClick={() => void revoke(link.id)}>
              Call back<span className="sr-only"> the link of {link.name}</span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
