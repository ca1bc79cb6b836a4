// What is sent of the built front end, packed once at build time: over a slow line its size is what one waits for.
import { readFileSync, readdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { brotliCompressSync, constants, gzipSync } from "node:zlib";

/** Write a file packed both ways beside itself. */
export function packed(path) {
  const body = readFileSync(path);
  const quality = {
    [constants.BROTLI_PARAM_QUALITY]: 9,
    [constants.BROTLI_PARAM_LGWIN]: 24,
    [constants.BROTLI_PARAM_SIZE_HINT]: body.length,
  };
  writeFileSync(`${path}.br`, brotliCompressSync(body, { params: quality }));
  writeFileSync(`${path}.gz`, gzipSync(body, { level: 9 }));
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const dist = join(fileURLToPath(import.meta.url), "..", "..", "dist");
  for (const folder of [dist, join(dist, "assets")])
    for (const name of readdirSync(folder))
      // The worker is small, and must be seen to change the moment it does.
      if (/\.(js|css|svg|webmanifest)$/.test(name) && name !== "sw.js") packed(join(folder, name));
}
