import { createSegment, listSegments, SegmentInput } from '../../../app/segments.ts';
import { gives, takes } from '../../../web/endpoint.ts';

export const GET = gives((use) => listSegments(use, true));
export const POST = takes(SegmentInput, (use, input) => createSegment(use, input));
