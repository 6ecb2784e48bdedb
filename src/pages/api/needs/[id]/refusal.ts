import { RefusalRead, readRefusal } from '../../../../app/read-refusal.ts';
import { changes } from '../../../../web/endpoint.ts';

export const POST = changes(RefusalRead, (use, { means }, { id }) => readRefusal(use, id!, means));
