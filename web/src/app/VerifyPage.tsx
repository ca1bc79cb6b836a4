// Whether reports and whole jobs are unchanged and belong together: open to anyone, the files stay on their device.
import { t } from "@lingui/core/macro";
import { useEffect, useRef, useState } from "react";
import { answer, api } from "../api/client";
import type { Answers } from "../api/client";
import { askHere, engine } from "../engine/ask";

type FoundOfFile = Answers<"verify">[number];
import { Button, Message, Skeleton } from "../ui/controls";
import { Mark } from "../ui/Mark";
import { TopBar } from "./TopBar";
import { dated } from "./context";
import { planShown } from "../engine/line";

const LARGEST_BYTES = 128 * 1024 * 1024;
/** One line of what was found; good is null where only the server could say, and was not asked. */
interface Said {
  file: string;
  says: string;
  good: boolean | null;
}

/** The SHA-256 of a file as hexadecimal digits. */
async function digestOf(bytes: Uint8Array<ArrayBuffer>): Promise<string> {
  const digest = await crypto.subtle.digest("SHA-256", bytes);
  return [...new Uint8Array(digest)].map((b) => b.toString(16).padStart(2, "0")).join("");
}

/** What this server knows of a digest; null where it does not answer. */
async function known(digest: string, name = "") {
  try {
    return await answer(api.GET("/api/known/{digest}", { params: { path: { digest }, query: { name } } }));
  } catch {
    return null;
  }
}

const written = (at: string) => dated(at, { dateStyle: "medium", timeStyle: "short" });
const when = (at: string | null) => (at ? t` on ${written(at)}` : "");

/** A sign-off that a file speaks of, held against what this server has sealed. */
async function confirmed(found: FoundOfFile): Promise<Said> {
  if (!found.claim) return found;
  const { name, at } = found.claim;
  // A file tells the moment as a machine writes it.
  const told = Number.isNaN(Date.parse(at)) ? found.says : found.says.replace(at, written(at));
  const it = await known(found.claim.digest, name);
  if (!it) {
    return {
      ...found,
      good: null,
      says: t`${told}. Only the server that sealed it can confirm that. Check again when there is signal`,
    };
  }
  if (it.kind === "unknown") {
    return {
      ...found,
      good: false,
      says: t`${told}. This server has no record of that sign-off. It was made on another server, or it is false`,
    };
  }
  if (it.same_name === false) {
    return { ...found, good: false, says: t`${told}. This server sealed it${when(it.at)}, but not in the name of ${name}` };
  }
  return { ...found, good: true, says: t`${told}. It was signed off by ${name}, and this server sealed it${when(it.at)}` };
}

async function lookAt(files: File[]): Promise<Said[]> {
  const read = Object.fromEntries(
    await Promise.all(files.map(async (f) => [f.name, new Uint8Array(await f.arrayBuffer())] as const)),
  );
  const found = await Promise.all((await askHere("verify", {}, read)).map(confirmed));
  const reports = Object.entries(read).filter(([name]) => name.toLowerCase().endsWith(".pdf"));
  const ofReports = await Promise.all(
    reports.map(async ([file, bytes]): Promise<Said[]> => {
      const it = await known(await digestOf(bytes));
      if (!it)
        return [
          { file, good: null, says: t`Only the server that made it can say where it comes from. Check again when there is signal` },
        ];
      return it.kind === "report"
        ? [{ file, good: true, says: t`was made by this server${when(it.at)}` }]
        : [{ file, good: false, says: t`is not known to this server. It was made on another server, or it was changed` }];
    }),
  );
  return [...found, ...ofReports.flat()];
}

/** The page on which files are checked. */
export function VerifyPage() {
  const input = useRef<HTMLInputElement>(null);
  const [looked, setLooked] = useState<Said[] | "working" | null>(null);
  const [trouble, setTrouble] = useState("");
  useEffect(() => {
    document.title = t`Check files · Ofen`;
    // Nothing else is needed here.
    planShown();
    engine();
  }, []);
  const check = async (files: File[]) => {
    if (files.length === 0) return;
    setTrouble("");
    if (files.reduce((sum, f) => sum + f.size, 0) > LARGEST_BYTES) {
      setTrouble(t`These files are too large to check here. The most is 128 MB. The command python -m ofen verify takes any size.`);
      return;
    }
    setLooked("working");
    try {
      setLooked(await lookAt(files));
    } catch {
      setLooked(null);
      setTrouble(t`These files cannot be checked here. The command python -m ofen verify does the same.`);
    }
  };
  return (
    <div className="flex min-h-dvh flex-col">
      <TopBar>
        <span className="font-medium">{t`Check files`}</span>
      </TopBar>
      <main className="mx-auto w-full max-w-3xl px-5 py-5">
        <h1 className="text-big font-bold">{t`Check that a file is unchanged`}</h1>
        <p className="py-2 text-ink-2">{t`Choose a report (PDF), a whole job (zip), or both. They are checked on this device and are not uploaded. The server is only asked whether it knows their checksums.`}</p>
        <div
          onDragOver={(e) => e.preventDefault()}
          onDrop={(e) => {
            e.preventDefault();
            void check([...e.dataTransfer.files]);
          }}
          className="grid place-items-center gap-2 rounded-sm border-[1.5px] border-dashed border-edge bg-card p-6"
        >
          <Button look="act" large onClick={() => input.current?.click()}>{t`Choose files`}</Button>
          <input
            ref={input}
            type="file"
            multiple
            accept=".pdf,.zip"
            className="sr-only"
            tabIndex={-1}
            aria-label={t`Files to check`}
            onChange={(e) => void check([...(e.target.files ?? [])])}
          />
          <span className="text-small text-muted">{t`or drop them here`}</span>
        </div>
        {trouble ? (
          <div className="pt-4">
            <Message failed title={t`Not checked`}>
              {trouble}
            </Message>
          </div>
        ) : null}
        <div aria-live="polite" className="pt-4">
          {looked === "working" ? <Skeleton lines={2} /> : looked ? <Findings all={looked} /> : null}
        </div>
      </main>
    </div>
  );
}

const heads = () =>
  ({
    good: t`No changes found`,
    note: t`Complete and unchanged, but its origin is not confirmed`,
    stop: t`Something was changed`,
  }) as const;

const levelOf = (good: boolean | null) => (good === null ? "note" : good ? "good" : "stop");

function Findings({ all }: { all: Said[] }) {
  const level = all.some((f) => f.good === false) ? "stop" : all.some((f) => f.good === null) ? "note" : "good";
  return (
    <>
      <p data-testid="verified" data-level={level} className="flex items-center gap-2 text-lg font-bold">
        <Mark level={level} /> {heads()[level]}
      </p>
      <ul className="mt-2 border-t-[1.5px] border-frame">
        {all.map((f) => (
          <li key={`${f.file} ${f.says}`} className="flex gap-2 border-b border-hair py-2">
            <Mark level={levelOf(f.good)} />
            <span>
              <span className="font-semibold break-all">{f.file}</span> {f.says}
            </span>
          </li>
        ))}
      </ul>
      <p className="pt-3 text-small text-muted">{t`A file can show that nothing in it was changed by accident. Only the server that sealed it can say whether it is the one that was signed off. Anybody can make a new file with checksums that match.`}</p>
    </>
  );
}
