interface BarProps {
  /** What is counted, for who does not see it. */
  name: string;
  most: number;
  value: number;
}

/** How far something has come. */
export function Bar({ name, most, value }: BarProps) {
  return (
    <progress
      className="my-1 block h-1.5 w-full appearance-none [&::-moz-progress-bar]:bg-good [&::-webkit-progress-bar]:bg-rule [&::-webkit-progress-value]:bg-good"
      max={most}
      value={value}
      aria-label={name}
    />
  );
}
