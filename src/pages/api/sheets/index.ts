import { createSheet, listSheets, NewSheet } from '../../../app/sheets.ts';
import { changes, gives } from '../../../web/endpoint.ts';

export const GET = gives((use) => listSheets(use));
export const POST = changes(NewSheet, (use, input) => createSheet(use, input));
