import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { faultOf } from "../../app/saving";
import { saveText } from "../../ui/csv";
import { EntryField } from "../../ui/EntryField";
import { Problem } from "../../ui/Problem";
import { useForm } from "../../ui/useForm";
import { Waiting } from "../../ui/Waiting";

/** The second factor of one's account: turned on with an authenticator app, with codes for a lost phone. */
export function SecondFactor() {
  const cache = useQueryClient();
  const state = useQuery({ queryKey: ["second-factor"], queryFn: () => ask(client.GET("/api/second-factor")) });
  const [setup, setSetup] = useState<Schemas["SecondFactorSetupOut"] | null>(null);
  const [codes, setCodes] = useState<string[]>([]);
  const [problem, setProblem] = useState("");
  const renew = () => cache.invalidateQueries({ queryKey: ["second-factor"] });
  const begin = async () => {
    setProblem("");
    try {
      setSetup(await ask(client.POST("/api/second-factor")));
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  };
  if (codes.length)
    return (
      <Codes
        codes={codes}
        onDone={() => {
          setCodes([]);
          setSetup(null);
          void renew();
          void cache.invalidateQueries({ queryKey: ["session"] });
        }}
      />
    );
  if (!state.data) return <Waiting query={state} />;
  if (state.data.on) return <On left={state.data.recovery_codes_left} onCodes={setCodes} onOff={renew} />;
  if (setup) return <Confirm setup={setup} onCodes={setCodes} />;
  return (
    <div>
      <p className="mb-2">
        With a second factor, signing in also asks for a code of an authenticator app on your phone. A password that
        somebody has seen is then not enough.
      </p>
      <Problem>{problem}</Problem>
      <button type="button" className="act min-h-11" onClick={() => void begin()}>
        Set up a second factor
      </button>
    </div>
  );
}

function Confirm({ setup, onCodes }: { setup: Schemas["SecondFactorSetupOut"]; onCodes: (codes: string[]) => void }) {
  const form = useForm({ code: "" }, async (body) => {
    onCodes((await ask(client.POST("/api/second-factor/confirm", { body }))).codes);
  });
  return (
    <form onSubmit={form.submit} className="sheet grid gap-3 p-4 sm:grid-cols-[auto_1fr]">
      <img
        className="h-44 w-44 bg-white"
        alt="Code for the authenticator app to scan"
        src={`data:image/svg+xml;utf8,${encodeURIComponent(setup.svg)}`}
      />
      <div className="space-y-3">
        <p>
          Scan this with an authenticator app, or type the secret into it:{" "}
          <code className="break-all font-mono font-semibold">{setup.secret}</code>
        </p>
        <EntryField
          label="Code that the app shows"
          inputMode="numeric"
          autoComplete="one-time-code"
          {...form.of("code")}
        />
        <Problem>{form.trouble}</Problem>
        <button type="submit" className="act" disabled={form.busy}>
          Turn it on
        </button>
      </div>
    </form>
  );
}

function Codes({ codes, onDone }: { codes: string[]; onDone: () => void }) {
  return (
    <div className="sheet space-y-3 p-4">
      <p>
        <b>Recovery codes.</b> Each lets you in once when the phone is not at hand. They are shown this one time: print
        them, or keep them where you keep your keys.
      </p>
      <ul className="columns-2 font-mono" aria-label="Recovery codes">
        {codes.map((code) => (
          <li key={code}>{code}</li>
        ))}
      </ul>
      <div className="flex flex-wrap gap-2">
        <button
          type="button"
          className="plain"
          onClick={() => saveText("cultrix-recovery-codes.txt", codes.join("\n"))}
        >
          Save as a file
        </button>
        <button type="button" className="act" onClick={onDone}>
          I have kept them
        </button>
      </div>
    </div>
  );
}

function On({ left, onCodes, onOff }: { left: number; onCodes: (codes: string[]) => void; onOff: () => void }) {
  const form = useForm({ password: "" }, async (body) => {
    onCodes((await ask(client.POST("/api/second-factor/recovery-codes", { body }))).codes);
  });
  const off = useForm({}, async () => {
    await ask(client.POST("/api/second-factor/off", { body: { password: form.entries.password } }));
    onOff();
  });
  return (
    <form onSubmit={form.submit} className="space-y-3">
      <p>
        <b>On.</b> Signing in asks for a code of your authenticator app. {left} recovery {left === 1 ? "code" : "codes"}{" "}
        left.
      </p>
      <div className="max-w-xs">
        <EntryField
          label="Your password, to change it"
          type="password"
          autoComplete="current-password"
          {...form.of("password")}
        />
      </div>
      <Problem>{form.trouble || off.trouble}</Problem>
      <div className="flex flex-wrap gap-2">
        <button type="submit" className="plain min-h-11" disabled={form.busy}>
          New recovery codes
        </button>
        <button type="button" className="plain min-h-11" disabled={off.busy} onClick={off.submit}>
          Turn it off
        </button>
      </div>
    </form>
  );
}
