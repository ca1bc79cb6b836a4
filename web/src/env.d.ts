/** Which engine this page belongs to; its files lie under this name. */
declare const __ENGINE_KEY__: string;
