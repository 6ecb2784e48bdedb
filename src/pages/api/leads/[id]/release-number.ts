import { releaseNumber } from '../../../../app/release-number.ts';
import { gives } from '../../../../web/endpoint.ts';

export const POST = gives((use, { id }) => releaseNumber(use, id!));
