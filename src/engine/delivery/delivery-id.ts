import { v5 as uuidv5 } from 'uuid';

/**
 * The id of a delivery: made from run, step and item, so that two processes that should ever plan the same message use the
 * same key and the outside world can tell (UUID version 5, RFC 9562 §5.5).
 */
export const deliveryId = (runId: string, stepId: string, item = 0): string => uuidv5(`${stepId}:${item}`, runId);
