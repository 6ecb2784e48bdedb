/** How long after somebody last wrote in chat the network lets us answer freely, milliseconds: docs/gateways.md. */
export const CHAT_WINDOW_MS = 24 * 3_600_000;
