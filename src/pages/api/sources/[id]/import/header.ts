import { correctImportHeader, ImportHeader } from '../../../../../app/imports.ts';
import { takes } from '../../../../../web/endpoint.ts';

export const POST = takes(ImportHeader, (use, input, { id }) => correctImportHeader(use, id!, input));
