import { getSource, listChoices } from '../../../../app/sources.ts';
import { gives } from '../../../../web/endpoint.ts';

export const GET = gives(async (use, { id }, query) => listChoices(use, (await getSource(use, id!)).kind, query));
