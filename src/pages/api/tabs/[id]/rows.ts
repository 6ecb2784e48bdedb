import { EditRows, editRows, tabRows } from '../../../../app/sheets.ts';
import { gives, takes } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => tabRows(use, id!));
export const POST = takes(EditRows, (use, input, { id }) => editRows(use, id!, input));
