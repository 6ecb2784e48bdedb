import { listForms } from '../../../../app/sources.ts';
import { gives } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => listForms(use, id!));
