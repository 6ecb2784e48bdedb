import { addTab, NewTab } from '../../../../app/sheets.ts';
import { takes } from '../../../../web/endpoint.ts';

export const POST = takes(NewTab, (use, input, { id }) => addTab(use, id!, input));
