import { settleRun } from '../../../../../../app/log.ts';
import { gives } from '../../../../../../web/endpoint.ts';

export const POST = gives((use, { run }) => settleRun(use, run!));
