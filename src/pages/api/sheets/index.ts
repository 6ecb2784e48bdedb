import { createSheet, listSheets, NewSheet } from '../../../app/sheets.ts';
import { gives, takes } from '../../../web/endpoint.ts';

export const GET = gives((use) => listSheets(use));
export const POST = takes(NewSheet, (use, input) => createSheet(use, input));
