import { changeList, ListInput } from '../../../../app/lists.ts';
import { removeList } from '../../../../app/removal.ts';
import { gives, takes } from '../../../../web/endpoint.ts';

export const PUT = takes(ListInput, (use, input, { id }) => changeList(use, id!, input));
export const DELETE = gives((use, { id }) => removeList(use, id!));
