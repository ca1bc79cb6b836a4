import { Trans } from "@lingui/react/macro";
import { useEffect, useRef, useState } from "react";
import { useSurroundings } from "../../app/context";
import { asBlob } from "../../outbox/photos";

interface PhotoViewProps {
  job: string;
  /** Its id. */
  photo: string;
  /** What it shows, in words. */
  shows: string;
}

/** A picture taken at work: from this device while it is here, else from the server. */
export function PhotoView({ job, photo, shows }: PhotoViewProps) {
  const { device } = useSurroundings();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [here, setHere] = useState<boolean | null>(null);
  const [refusal, setRefusal] = useState("");
  useEffect(() => {
    let old = false;
    void device.db.photos.get(photo).then(async (kept) => {
      if (old) return;
      setHere(kept !== undefined);
      setRefusal(kept?.refusal ?? "");
      const drawn = kept ? await createImageBitmap(asBlob(kept.picture)) : null;
      if (!drawn || !canvas.current || old) return;
      canvas.current.width = drawn.width;
      canvas.current.height = drawn.height;
      canvas.current.getContext("2d")?.drawImage(drawn, 0, 0);
    });
    return () => {
      old = true;
    };
  }, [device, photo]);
  const look = "max-h-64 max-w-full rounded-sm border border-rule";
  if (here === false) return <img src={`/api/jobs/${job}/papers/${photo}`} alt={shows} className={look} />;
  return (
    <>
      <canvas ref={canvas} role="img" aria-label={shows} className={look} />
      {refusal ? (
        <p role="status" className="text-small text-stop">
          <Trans>On this device only. The server refused it: {refusal}</Trans>
        </p>
      ) : null}
    </>
  );
}
