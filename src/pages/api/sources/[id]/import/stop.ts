import { stopImport } from '../../../../../app/imports.ts';
import { gives } from '../../../../../web/endpoint.ts';

export const POST = gives((use, { id }) => stopImport(use, id!));
