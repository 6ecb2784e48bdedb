import { deleteSheet, getSheet, NewSheet, renameSheet } from '../../../../app/sheets.ts';
import { changes, does, gives } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getSheet(use, id!));
export const PUT = changes(NewSheet, (use, input, { id }) => renameSheet(use, id!, input));
export const DELETE = does((use, { id }, query) => deleteSheet(use, id!, query.get('agreed') === '1'));
