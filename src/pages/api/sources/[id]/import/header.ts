import { correctImportHeader } from '../../../../../app/imports.ts';
import { HowRead } from '../../../../../app/workbook-files.ts';
import { takes } from '../../../../../web/endpoint.ts';

export const POST = takes(HowRead, (use, input, { id }) => correctImportHeader(use, id!, input));
