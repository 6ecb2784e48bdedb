import { undoImport } from '../../../../../app/imports.ts';
import { does } from '../../../../../web/endpoint.ts';

export const POST = does((use, { id }) => undoImport(use, id!));
