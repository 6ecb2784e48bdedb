import type { APIContext } from 'astro';
import type { From } from '../app/account/session.ts';

/** Where a request comes from: the network address as the server sees it, and the browser as it calls itself. */
export const whereFrom = ({ clientAddress, request }: Pick<APIContext, 'clientAddress' | 'request'>): From => ({
  address: clientAddress,
  userAgent: request.headers.get('user-agent') ?? '',
});
