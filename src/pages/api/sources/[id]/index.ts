import { removeSource } from '../../../../app/removal.ts';
import { ChangeSource, changeSource, getSource } from '../../../../app/sources.ts';
import { changes, does, gives } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getSource(use, id!));
export const PUT = changes(ChangeSource, (use, input, { id }) => changeSource(use, id!, input));
export const DELETE = does((use, { id }) => removeSource(use, id!));
