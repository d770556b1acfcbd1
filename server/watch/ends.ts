/** Exit code of a server that need not be started again: it would end the same way (scripts/start.mjs knows it). */
export const cannotStart = 78
