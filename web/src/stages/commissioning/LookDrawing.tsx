// Small drawings of what may be seen, felt or heard: each look of the table has one of its own.

const FLAME = "M24 6c7 9 11 14 11 22a11 11 0 0 1-22 0c0-6 4-8 5-14 3 3 5 5 6-8z";
const WIDE_FLAME = "M24 4c6 8 18 14 18 25a18 13 0 0 1-36 0C6 20 14 18 16 9c3 4 6 4 8-5z";
const SMALL_FLAME = "M24 26c3 4 5 6 5 9a5 5 0 0 1-10 0c0-3 2-4 2-6 1 1 2 1 3-3z";
const POT = "M8 34h32v8a2 2 0 0 1-2 2H10a2 2 0 0 1-2-2z";
const CYLINDER = "M14 14c0-5 20-5 20 0v26c0 4-20 4-20 0z";
const TILE = "M8 8h32v32H8z";
const PUFF = "M14 30a6 6 0 0 1 4-10 8 8 0 0 1 15 2 5 5 0 0 1-1 10H17a5 5 0 0 1-3-2z";

const line = "fill-none stroke-ink-2";
const port = <path d="M8 40h32" className={line} strokeWidth="3" />;
const pot = <path d={POT} className="fill-rule stroke-ink-2" strokeWidth="1.5" />;
const chimney = <path d="M18 46V34h12v12" className="fill-rule stroke-ink-2" strokeWidth="1.5" />;
const shell = (
  <>
    <path d={CYLINDER} className="fill-card stroke-ink-2" strokeWidth="1.5" />
    <path d="M21 11V7h6v4" className={line} strokeWidth="1.5" />
  </>
);
const spout = <path d="M6 10h20v6" className={line} strokeWidth="4" />;
const waves = (d: string) => <path d={d} className={line} strokeWidth="2.5" strokeLinecap="round" />;
const flame = (d: string, tone: string, move = "") => <path d={d} className={tone} transform={move} />;

const DRAWINGS: Record<string, React.ReactNode> = {
  "flame-lemon": <>{flame(FLAME, "fill-caution")}{pot}</>,
  "flame-orange": <>{flame(WIDE_FLAME, "fill-ember")}<path d="M12 8l3-6M34 9l4-6" className={line} strokeWidth="2.5" />{pot}</>,
  "flame-inside": <>{pot}{flame(SMALL_FLAME, "fill-caution", "translate(0 6)")}</>,
  "flame-below": <>{pot}{flame(SMALL_FLAME, "fill-ember", "translate(-8 2)")}{flame(SMALL_FLAME, "fill-ember", "translate(8 2)")}</>,
  "flame-dropping": <>{flame(FLAME, "fill-caution", "translate(7 14) scale(.7)")}<path d="M41 8v16m-4-4l4 5 4-5" className={line} strokeWidth="2" />{pot}</>,
  "flame-pulsing": <>{flame(FLAME, "fill-caution", "translate(7 12) scale(.7)")}{waves("M6 12c4-4 4 6 8 2M34 12c4-4 4 6 8 2")}{pot}</>,
  "flame-out": <>{pot}<path d="M16 12l16 14M32 12L16 26" className="fill-none stroke-stop" strokeWidth="3" strokeLinecap="round" /></>,
  "smoke-none": <>{chimney}<path d="M24 30V10m-5 6l5-6 5 6" className="fill-none stroke-good" strokeWidth="2" /></>,
  "smoke-thin": <>{chimney}<path d="M24 30c-6-6 6-8 0-14s4-8 2-12" className={line} strokeWidth="2" strokeDasharray="4 3" /></>,
  "smoke-black": <>{chimney}<path d={PUFF} className="fill-ink" transform="translate(0 2)" /><path d={PUFF} className="fill-ink" transform="translate(6 -12) scale(.8)" /></>,
  "smoke-white": <>{chimney}<path d={PUFF} className="fill-card stroke-ink-2" transform="translate(0 2)" /><path d={PUFF} className="fill-card stroke-ink-2" transform="translate(6 -12) scale(.8)" /></>,
  "gas-blue": <>{port}{[10, 19, 28].map((x) => flame(SMALL_FLAME, "fill-gas", `translate(${x - 19} 0)`))}</>,
  "gas-yellow": <>{port}{[10, 19, 28].map((x) => flame(FLAME, "fill-caution", `translate(${x - 8} 12) scale(.55)`))}</>,
  "gas-lifting": <>{port}{[10, 19, 28].map((x) => flame(SMALL_FLAME, "fill-gas", `translate(${x - 19} -14)`))}<path d="M12 34v-4m12 4v-4m12 4v-4" className={line} strokeWidth="1.5" /></>,
  "gas-none": <>{port}<path d="M14 16l20 16M34 16L14 32" className="fill-none stroke-stop" strokeWidth="3" strokeLinecap="round" /></>,
  "tile-bright": <path d={TILE} className="fill-ember stroke-ink-2" strokeWidth="1.5" />,
  "tile-patchy": <><path d={TILE} className="fill-ember stroke-ink-2" strokeWidth="1.5" /><path d="M12 12h10v8H12zM26 26h10v10H26z" className="fill-ink-2" /></>,
  "tile-yellow": <><path d={TILE} className="fill-ember stroke-ink-2" strokeWidth="1.5" />{flame(SMALL_FLAME, "fill-caution", "translate(-8 -14)")}{flame(SMALL_FLAME, "fill-caution", "translate(8 -8)")}</>,
  "vessel-dew": <>{shell}<path d="M14 26h20" className="fill-none stroke-gas" strokeWidth="2.5" strokeDasharray="3 2" /></>,
  "vessel-frost": <>{shell}<path d="M18 26v12m6-14v14m6-12v12M15 30h18M15 36h18" className="fill-none stroke-gas" strokeWidth="2" /></>,
  "lamp-off": <circle cx="24" cy="24" r="12" className="fill-card stroke-ink-2" strokeWidth="2" />,
  "lamp-red": <><circle cx="24" cy="24" r="12" className="fill-stop" /><path d="M24 4v5M24 39v5M4 24h5M39 24h5" className="fill-none stroke-stop" strokeWidth="2.5" /></>,
  "stream-steady": <>{spout}<path d="M26 17v26" className="fill-none stroke-caution" strokeWidth="5" /></>,
  "stream-uneven": <>{spout}<path d="M26 17v26" className="fill-none stroke-caution" strokeWidth="5" strokeDasharray="8 4 3 4" /></>,
  "stream-foam": <>{spout}{[20, 28, 36, 43].map((y, n) => <circle key={y} cx={26 + (n % 2) * 3} cy={y} r="3" className="fill-none stroke-caution" strokeWidth="2" />)}</>,
  "stream-none": <>{spout}<path d="M20 26l12 12M32 26L20 38" className="fill-none stroke-stop" strokeWidth="3" strokeLinecap="round" /></>,
  "sound-even": waves("M4 24c4-8 6-8 10 0s6 8 10 0 6-8 10 0 6 8 10 0"),
  "sound-hunts": waves("M4 24c2-4 3-4 5 0s3 4 5 0 6-16 10 0 6 16 10 0 3-4 5 0 3 4 5 0"),
  "sound-knocks": waves("M4 24h8l4-14 5 28 4-20 4 12 3-6h12"),
  "sound-ticks": waves("M6 24v-6M16 24v-6M26 24v-6M36 24v-6M4 30h40"),
};

interface LookDrawingProps {
  /** The word of the drawing, from the table of looks. */
  drawing: string;
}

/** What a look looks like, small. */
export function LookDrawing({ drawing }: LookDrawingProps) {
  return (
    <svg viewBox="0 0 48 48" width="48" height="48" aria-hidden="true" className="shrink-0 rounded-sm border border-rule bg-sheet">
      {DRAWINGS[drawing]}
    </svg>
  );
}

export const drawn = (drawing: string) => drawing in DRAWINGS;
