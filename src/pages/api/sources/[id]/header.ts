import { correctHowRead, HowRead } from '../../../../app/workbook-files.ts';
import { changes } from '../../../../web/endpoint.ts';

export const POST = changes(HowRead, (use, input, { id }) => correctHowRead(use, id!, input));
