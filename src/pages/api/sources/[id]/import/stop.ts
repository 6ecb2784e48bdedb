import { stopImport } from '../../../../../app/imports.ts';
import { does } from '../../../../../web/endpoint.ts';

export const POST = does((use, { id }) => stopImport(use, id!));
