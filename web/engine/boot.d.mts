export type Answer = ((question: string) => string) & {
  /** What is found of files as they are, without JSON round them. */
  verify: (files: Record<string, Uint8Array>) => string;
};
export function startPython(loadPyodide: (options: object) => Promise<unknown>, at: string, read: (name: string) => Promise<unknown>): Promise<Answer>;
