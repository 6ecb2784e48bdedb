import { changeSegment, removeSegment, SegmentInput } from '../../../app/segments.ts';
import { gives, takes } from '../../../web/endpoint.ts';

export const PUT = takes(SegmentInput, (use, input, { id }) => changeSegment(use, id!, input));
export const DELETE = gives((use, { id }) => removeSegment(use, id!));
