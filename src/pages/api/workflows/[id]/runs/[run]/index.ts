import { getRun } from '../../../../../../app/log.ts';
import { gives } from '../../../../../../web/endpoint.ts';

export const GET = gives((use, { id, run }) => getRun(use, id!, run!));
