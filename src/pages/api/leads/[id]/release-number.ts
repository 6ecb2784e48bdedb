import { releaseNumber } from '../../../../app/release-number.ts';
import { does } from '../../../../web/endpoint.ts';

export const POST = does((use, { id }) => releaseNumber(use, id!));
