import { changeSegment, removeSegment, SegmentInput } from '../../../app/segments.ts';
import { changes, does } from '../../../web/endpoint.ts';

export const PUT = changes(SegmentInput, (use, input, { id }) => changeSegment(use, id!, input));
export const DELETE = does((use, { id }) => removeSegment(use, id!));
