export type Answer = ((question: string) => string) & {
  /** A question about files, which come as they are, without JSON round them. */
  look: (question: string, files: Record<string, Uint8Array>) => string;
};
export function startPython(
  loadPyodide: (options: object) => Promise<unknown>,
  at: string,
  read: (name: string) => Promise<unknown>,
): Promise<Answer>;
