import { changeList, ListInput } from '../../../../app/lists.ts';
import { removeList } from '../../../../app/removal.ts';
import { changes, does } from '../../../../web/endpoint.ts';

export const PUT = changes(ListInput, (use, input, { id }) => changeList(use, id!, input));
export const DELETE = does((use, { id }) => removeList(use, id!));
