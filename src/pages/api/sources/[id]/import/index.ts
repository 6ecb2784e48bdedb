import { getImport, StartImport, startImport } from '../../../../../app/imports.ts';
import { changes, gives } from '../../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getImport(use, id!));
export const POST = changes(StartImport, (use, input, { id }) => startImport(use, id!, input));
