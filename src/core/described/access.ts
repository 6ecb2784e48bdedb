import { z } from 'zod';

const address = z.string().trim().max(1000);

/** How access is allowed on a service's own page (OAuth 2, RFC 6749 §4.1), where that is all there is to say of it: at mail servers. */
export const AccessSettings = z.object({
  authorizeAddress: address,
  tokenAddress: address,
  clientId: z.string().trim().min(1, 'Say the client ID the service gave you').max(500),
  scope: z.string().trim().max(500).default(''),
  /** What its page wants to know besides, as in an address: `access=offline`. */
  more: z.string().trim().max(500).default(''),
  /** Whether the client shows itself in the header or in the body (RFC 6749 §2.3.1). */
  shows: z.enum(['basic', 'body']).default('body'),
});
export type AccessSettings = z.infer<typeof AccessSettings>;
