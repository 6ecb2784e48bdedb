import { correctHeader, HeaderRow } from '../../../../app/workbook-files.ts';
import { takes } from '../../../../web/endpoint.ts';

export const POST = takes(HeaderRow, (use, input, { id }) => correctHeader(use, id!, input));
