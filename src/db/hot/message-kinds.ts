/** The step an answer by hand is told by. */
export const BY_HAND_STEP = 'by-hand';
/** The step of what answers a word such as STOP. */
export const COMMAND_STEP = 'word';
/** From this rank on a message is one of many. */
export const BULK_RANK = 5;
