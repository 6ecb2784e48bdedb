import { deleteSheet, getSheet, NewSheet, renameSheet } from '../../../../app/sheets.ts';
import { gives, takes } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getSheet(use, id!));
export const PUT = takes(NewSheet, (use, input, { id }) => renameSheet(use, id!, input));
export const DELETE = gives((use, { id }, query) => deleteSheet(use, id!, query.get('agreed') === '1'));
