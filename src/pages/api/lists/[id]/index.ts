import { changeList, ListInput } from '../../../../app/lists.ts';
import { takes } from '../../../../web/endpoint.ts';

export const PUT = takes(ListInput, (use, input, { id }) => changeList(use, id!, input));
