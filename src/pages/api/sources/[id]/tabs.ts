import { listTabs } from '../../../../app/workbook-files.ts';
import { gives } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => listTabs(use, id!));
