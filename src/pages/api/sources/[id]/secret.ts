import { showSourceSecret } from '../../../../app/sources.ts';
import { gives } from '../../../../web/endpoint.ts';

export const POST = gives(async (use, { id }) => ({ secret: await showSourceSecret(use, id!) }));
