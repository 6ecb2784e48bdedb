import { createSegment, listSegments, SegmentInput } from '../../../app/segments.ts';
import { changes, gives } from '../../../web/endpoint.ts';

export const GET = gives((use) => listSegments(use, true));
export const POST = changes(SegmentInput, (use, input) => createSegment(use, input));
