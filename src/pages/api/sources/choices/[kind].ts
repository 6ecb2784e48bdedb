import { listChoices } from '../../../../app/sources.ts';
import { gives } from '../../../../web/endpoint.ts';

export const GET = gives((use, { kind }, query) => listChoices(use, kind!, query));
