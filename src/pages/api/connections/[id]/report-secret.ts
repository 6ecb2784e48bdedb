import { showReportSecret } from '../../../../app/connections.ts';
import { gives } from '../../../../web/endpoint.ts';

export const POST = gives(async (use, { id }) => ({ secret: await showReportSecret(use, id!) }));
