export function engineKey(): string;
