// What somebody else has done to this job's fields, told once, with a way back.
import { t } from "@lingui/core/macro";
import { useLiveQuery } from "dexie-react-hooks";
import { useJobStore } from "../job/context";
import { Button } from "../ui/controls";
import { useSurroundings } from "../app/context";
import { useFieldWords } from "../app/useFieldWords";

export function NewsLine() {
  const { device, person } = useSurroundings();
  const store = useJobStore();
  const words = useFieldWords();
  const news = useLiveQuery(async () => (await device.db.jobs.get(store.id))?.news ?? null, [device, store.id]);
  // What this person has done on another device is no news to them.
  if (!news || news.author === person.name) return null;
  const read = () => void device.newsRead(store.id);
  const back = () => {
    store.editAll(news.changes.map((c) => ({ path: c.path, value: c.before })));
    read();
  };
  return (
    <section data-testid="news" role="status" className="no-print border-b border-edge bg-card px-5 py-2 text-small">
      <p>
        <b>
          {news.kind === "merged"
            ? t`${news.author} saved this job meanwhile. Their changes and yours are merged.`
            : t`${news.author} has changed values that you had entered.`}
        </b>
      </p>
      <ul className="list-disc pl-5">
        {news.changes.map((c) => (
          <li key={c.path}>
            {words.label(c.path)}: {words.value(c.path, c.before)} → {words.value(c.path, c.after)}
          </li>
        ))}
      </ul>
      <p className="flex flex-wrap gap-2 pt-1">
        <Button data-testid="news-read" onClick={read}>{t`OK`}</Button>
        {store.role === "guest" ? null : (
          <Button data-testid="news-back" look="quiet" onClick={back}>
            {news.kind === "merged" ? t`Undo ${news.author}’s changes` : t`Restore my values`}
          </Button>
        )}
      </p>
    </section>
  );
}
