import { useState } from "react";
import { Problem } from "../../api/client";

/** Something that only the server does: trying it, and in words why it did not come about. */
export function useTried(withoutSignal: string): {
  trouble: Problem | null;
  words: string;
  tried: <T>(act: Promise<T>) => Promise<T | null>;
  forget: () => void;
} {
  const [trouble, setTrouble] = useState<Problem | null>(null);
  const tried = async <T>(act: Promise<T>): Promise<T | null> => {
    setTrouble(null);
    try {
      return await act;
    } catch (problem) {
      if (!(problem instanceof Problem)) throw problem;
      setTrouble(problem);
      return null;
    }
  };
  const said = trouble?.faults?.map((f) => f.message).join("; ");
  const words =
    trouble === null
      ? ""
      : trouble.status === 0
        ? withoutSignal
        : [trouble.message, trouble.detail, said].filter(Boolean).join(". ");
  return { trouble, words, tried, forget: () => setTrouble(null) };
}
