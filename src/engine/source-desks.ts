import type pg from 'pg';
import type { SecretBox } from '../db/secret-box.ts';
import type { HttpCaller } from '../gateways/http.ts';
import { ServiceCaller } from '../gateways/service.ts';
import type { SourceDesk } from '../sources/source-module.ts';

/** Gives each business's sources their way to the outside world, with that business's own connections only. */
export class SourceDesks {
  private readonly services: ServiceCaller;

  constructor(
    private readonly pool: pg.Pool,
    private readonly secrets: SecretBox,
    private readonly http: HttpCaller,
    private readonly now: () => number,
  ) {
    this.services = new ServiceCaller(http, now);
  }

  of(businessId: string, businessName: string): SourceDesk {
    return {
      services: this.services,
      http: this.http,
      businessName,
      now: this.now(),
      account: async (connectionId) => {
        const { rows } = await this.pool.query<{ settings: { address: string }; secret: string | null }>(
          'select settings, secret from connection where id = $1 and business_id = $2',
          [connectionId, businessId],
        );
        const row = rows[0];
        if (!row) return null;
        return { address: row.settings.address, token: row.secret === null ? null : this.secrets.open(row.secret) };
      },
    };
  }
}
