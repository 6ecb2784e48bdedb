import { correctHowRead, HowRead } from '../../../../app/workbook-files.ts';
import { takes } from '../../../../web/endpoint.ts';

export const POST = takes(HowRead, (use, input, { id }) => correctHowRead(use, id!, input));
