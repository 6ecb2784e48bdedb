import { correctImportHeader } from '../../../../../app/imports.ts';
import { HowRead } from '../../../../../app/workbook-files.ts';
import { changes } from '../../../../../web/endpoint.ts';

export const POST = changes(HowRead, (use, input, { id }) => correctImportHeader(use, id!, input));
