import { getImport, StartImport, startImport } from '../../../../../app/imports.ts';
import { gives, takes } from '../../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getImport(use, id!));
export const POST = takes(StartImport, (use, input, { id }) => startImport(use, id!, input));
