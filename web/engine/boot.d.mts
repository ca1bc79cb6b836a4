export function startPython(loadPyodide: (options: object) => Promise<unknown>, at: string, read: (name: string) => Promise<unknown>): Promise<(question: string) => string>;
