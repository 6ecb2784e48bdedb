import { showReportSecret } from '../../../../app/connections.ts';
import { does } from '../../../../web/endpoint.ts';

export const POST = does(async (use, { id }) => ({ secret: await showReportSecret(use, id!) }));
