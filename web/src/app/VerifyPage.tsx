// Whether reports and whole jobs are unchanged and belong together: open to anyone, the files stay on their device.
import { useEffect, useRef, useState } from "react";
import { answer, api } from "../api/client";
import { type FoundOfFile, engine, verifyFiles } from "../engine/ask";
import { Button, Message, Skeleton } from "../ui/controls";
import { Mark } from "../ui/Mark";
import { TopBar } from "./TopBar";

const LARGEST_BYTES = 128 * 1024 * 1024;
const KNOWN = {
  report: "was made by this server",
  sign_off: "is a sign-off that this server sealed",
  unknown: "is not known to this server: it was made elsewhere, or was changed",
} as const;

interface Looked {
  found: FoundOfFile[];
  /** What this server knows of each report; empty without signal. */
  known: { file: string; says: string; good: boolean }[];
}

/** The SHA-256 of a file as hexadecimal digits. */
async function digestOf(bytes: Uint8Array<ArrayBuffer>): Promise<string> {
  const digest = await crypto.subtle.digest("SHA-256", bytes);
  return [...new Uint8Array(digest)].map((b) => b.toString(16).padStart(2, "0")).join("");
}

async function lookAt(files: File[]): Promise<Looked> {
  const read = Object.fromEntries(
    await Promise.all(files.map(async (f) => [f.name, new Uint8Array(await f.arrayBuffer())] as const)),
  );
  const found = await verifyFiles(read);
  const reports = Object.entries(read).filter(([name]) => name.toLowerCase().endsWith(".pdf"));
  const known = await Promise.all(
    reports.map(async ([file, bytes]) => {
      try {
        const { kind, at } = await answer(api.GET("/api/known/{digest}", { params: { path: { digest: await digestOf(bytes) } } }));
        return [{ file, good: kind !== "unknown", says: `${KNOWN[kind]}${at ? ` on ${new Date(at).toLocaleString()}` : ""}` }];
      } catch {
        return [];
      }
    }),
  );
  return { found, known: known.flat() };
}

/** The page on which files are checked. */
export function VerifyPage() {
  const input = useRef<HTMLInputElement>(null);
  const [looked, setLooked] = useState<Looked | "working" | null>(null);
  const [trouble, setTrouble] = useState("");
  useEffect(() => {
    document.title = "Check files · Ofen";
    engine();
  }, []);
  const check = async (files: File[]) => {
    if (files.length === 0) return;
    setTrouble("");
    if (files.reduce((sum, f) => sum + f.size, 0) > LARGEST_BYTES) {
      setTrouble(
        "These files are too large to be looked at here: at most 128 MB. The command python -m ofen verify takes any size.",
      );
      return;
    }
    setLooked("working");
    try {
      setLooked(await lookAt(files));
    } catch {
      setLooked(null);
      setTrouble("These files could not be looked at here. The command python -m ofen verify does the same.");
    }
  };
  return (
    <div className="flex min-h-dvh flex-col">
      <TopBar>
        <span className="font-medium">Check files</span>
      </TopBar>
      <main className="mx-auto w-full max-w-3xl px-5 py-5">
        <h1 className="text-big font-bold">Is it unchanged, and does it belong together?</h1>
        <p className="py-2 text-ink-2">
          Choose a report (PDF), a whole job (zip), or both. They are looked at on this device and go nowhere; of a report the
          server is asked whether it knows its digest.
        </p>
        <div
          onDragOver={(e) => e.preventDefault()}
          onDrop={(e) => {
            e.preventDefault();
            void check([...e.dataTransfer.files]);
          }}
          className="grid place-items-center gap-2 rounded-sm border-[1.5px] border-dashed border-edge bg-card p-6"
        >
          <Button look="act" large onClick={() => input.current?.click()}>
            Choose files
          </Button>
          <input
            ref={input}
            type="file"
            multiple
            accept=".pdf,.zip"
            className="sr-only"
            tabIndex={-1}
            aria-label="Files to check"
            onChange={(e) => void check([...(e.target.files ?? [])])}
          />
          <span className="text-small text-muted">or drop them here</span>
        </div>
        {trouble ? (
          <div className="pt-4">
            <Message failed title="Not checked">
              {trouble}
            </Message>
          </div>
        ) : null}
        <div aria-live="polite" className="pt-4">
          {looked === "working" ? <Skeleton lines={2} /> : looked ? <Findings looked={looked} /> : null}
        </div>
      </main>
    </div>
  );
}

function Findings({ looked }: { looked: Looked }) {
  const all = [...looked.found, ...looked.known];
  const good = all.every((f) => f.good);
  return (
    <>
      <p className="flex items-center gap-2 text-lg font-bold">
        <Mark level={good ? "good" : "stop"} /> {good ? "Nothing was found that is not as it was" : "Something is not as it was"}
      </p>
      <ul className="mt-2 border-t-[1.5px] border-frame">
        {all.map((f) => (
          <li key={`${f.file} ${f.says}`} className="flex gap-2 border-b border-hair py-2">
            <Mark level={f.good ? "good" : "stop"} />
            <span>
              <span className="font-semibold break-all">{f.file}</span> {f.says}
            </span>
          </li>
        ))}
      </ul>
      <p className="pt-3 text-small text-muted">
        This shows every change but one made on purpose by somebody who made all digests anew; against that stands the server that
        made the report and knows its digest.
      </p>
    </>
  );
}
