import { RefusalRead, readRefusal } from '../../../../app/read-refusal.ts';
import { takes } from '../../../../web/endpoint.ts';

export const POST = takes(RefusalRead, (use, { means }, { id }) => readRefusal(use, id!, means));
