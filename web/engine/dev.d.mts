import type { Plugin } from "vite";

export const DEV_KEY: string;
/** Whether something listens on a port of this machine, once it does or the patience is over. */
export function listening(port: number, ms?: number): Promise<boolean>;
/** Serves the engine from its folders while developing; `port` is the server's. */
export function devEngine(port: number): Plugin;
