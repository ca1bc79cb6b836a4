// Where the sentences of the screens are kept: a folder a language, a file a room. `npm run words` reads them out of the code.
import { defineConfig } from "@lingui/conf";
import { formatter } from "@lingui/format-po";

const ROOMS = ["api", "app", "crew", "engine", "help", "instruments", "job", "jobs", "outbox", "path", "quantities", "ui", "words"];
const STAGES = ["need", "equipment", "supply", "siting", "commissioning", "running", "handover"];

export default defineConfig({
  sourceLocale: "en-GB",
  locales: ["en-GB"],
  catalogs: [
    ...STAGES.map((stage) => ({ path: `locales/{locale}/${stage}`, include: [`src/stages/${stage}`] })),
    ...ROOMS.map((room) => ({ path: `locales/{locale}/${room}`, include: [`src/${room}`] })),
  ],
  format: formatter({ lineNumbers: false }),
});
