/** What a step asks of our own records cannot be done, and trying again would not help. The message is read by people. */
export class RefusedWork extends Error {}
