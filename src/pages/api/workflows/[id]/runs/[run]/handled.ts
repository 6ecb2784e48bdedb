import { settleRun } from '../../../../../../app/log.ts';
import { does } from '../../../../../../web/endpoint.ts';

export const POST = does((use, { run }) => settleRun(use, run!));
