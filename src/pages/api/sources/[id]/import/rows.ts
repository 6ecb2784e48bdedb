import { importRows } from '../../../../../app/imports.ts';
import { gives } from '../../../../../web/endpoint.ts';

export const GET = gives((use, { id }, query) =>
  importRows(use, id!, query.get('verdict'), Number(query.get('after') ?? 0) || 0),
);
