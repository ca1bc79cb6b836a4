// Pictures taken at work: made small and bare of where they were taken, kept here until the server has them.
import { t } from "@lingui/core/macro";
import { Problem, answer, api, asForm } from "../api/client";
import type { Device } from "./device";

const LONGEST_SIDE = 2048;
const QUALITY = 0.85;
export const MOST_BYTES = 10 * 1024 * 1024;
const MOST_GIVEN_BYTES = 60 * 1024 * 1024;

/** A picture as it is kept: drawn anew, so that nothing but the picture comes along. */
export async function pictureOf(file: Blob): Promise<ArrayBuffer> {
  if (file.size > MOST_GIVEN_BYTES)
    throw new Error(
      t`This file has ${Math.round(file.size / 1024 / 1024)} MB. A picture may have ${MOST_GIVEN_BYTES / 1024 / 1024} MB at most.`,
    );
  let drawn: ImageBitmap;
  try {
    drawn = await createImageBitmap(file);
  } catch {
    throw new Error(t`This file is not a picture that can be shown. Choose a JPEG or a PNG.`);
  }
  const scale = Math.min(1, LONGEST_SIDE / Math.max(drawn.width, drawn.height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.max(1, Math.round(drawn.width * scale));
  canvas.height = Math.max(1, Math.round(drawn.height * scale));
  canvas.getContext("2d")?.drawImage(drawn, 0, 0, canvas.width, canvas.height);
  drawn.close();
  const made = await new Promise<Blob | null>((done) => canvas.toBlob(done, "image/jpeg", QUALITY));
  if (!made) throw new Error(t`This device cannot save the picture. Try a smaller one.`);
  if (made.size > MOST_BYTES) throw new Error(t`This picture is too large, even when reduced. Choose another.`);
  return made.arrayBuffer();
}

export const asBlob = (picture: ArrayBuffer) => new Blob([picture], { type: "image/jpeg" });

/** Send the pictures that wait, one by one; one the server will never take is named and kept. */
export async function sendPhotos(device: Device): Promise<void> {
  for (const kept of await device.db.photos.where("sent").equals(0).toArray()) {
    const form = new FormData();
    form.append("file", asBlob(kept.picture), "photo.jpg");
    try {
      await answer(
        api.POST("/api/jobs/{job_id}/photos/{photo_id}", {
          params: { path: { job_id: kept.job, photo_id: kept.id } },
          ...asForm(form),
        }),
      );
      await device.db.photos.update(kept.id, { sent: 1 });
    } catch (problem) {
      if (!(problem instanceof Problem)) throw problem;
      if (problem.status === 0) return;
      if ([413, 422, 409].includes(problem.status))
        await device.db.photos.update(kept.id, { sent: 2, refusal: `${problem.message}. ${problem.detail}` });
    }
  }
}
