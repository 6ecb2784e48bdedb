import { removeSource } from '../../../../app/removal.ts';
import { ChangeSource, changeSource, getSource } from '../../../../app/sources.ts';
import { gives, takes } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => getSource(use, id!));
export const PUT = takes(ChangeSource, (use, input, { id }) => changeSource(use, id!, input));
export const DELETE = gives((use, { id }) => removeSource(use, id!));
