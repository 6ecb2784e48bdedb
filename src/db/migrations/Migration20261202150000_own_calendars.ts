import { Migration } from '@mikro-orm/migrations';

export class Migration20261202150000_own_calendars extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "own_calendar" ("id" uuid not null, "business_id" uuid not null, "connection_id" uuid not null, "colleague_id" uuid not null, "href" varchar(1000) not null, "name" varchar(200) not null, "writes" boolean not null default false, "titles" boolean not null default false, "tag" text null, "next_at" timestamptz not null, "lease_until" timestamptz null, "failures" int not null default 0, "last_ok_at" timestamptz null, "trouble_since" timestamptz null, "problem" text not null default '', "created_at" timestamptz not null, constraint "own_calendar_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "own_calendar_colleague" on "own_calendar" ("business_id", "colleague_id");`);
    this.addSql(`create index "own_calendar_due" on "own_calendar" ("next_at");`);
    this.addSql(
      `alter table "own_calendar" add constraint "own_calendar_place" unique ("connection_id", "href", "colleague_id");`,
    );

    this.addSql(
      `create table "calendar_copy" ("own_calendar_id" uuid not null, "entry_id" uuid not null, "business_id" uuid not null, "href" varchar(1000) not null, "etag" text null, "title" text not null, "starts_at" timestamptz not null, "ends_at" timestamptz not null, "at" timestamptz not null, constraint "calendar_copy_pkey" primary key ("own_calendar_id", "entry_id"));`,
    );

    this.addSql(
      `alter table "own_calendar" add constraint "own_calendar_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "own_calendar" add constraint "own_calendar_connection_id_foreign" foreign key ("connection_id") references "connection" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "own_calendar" add constraint "own_calendar_colleague_id_foreign" foreign key ("colleague_id") references "person" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "calendar_copy" add constraint "calendar_copy_own_calendar_id_foreign" foreign key ("own_calendar_id") references "own_calendar" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "calendar_copy" add constraint "calendar_copy_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(`alter table "connection" drop constraint if exists "connection_kind_check";`);

    this.addSql(
      `alter table "connection" add constraint "connection_kind_check" check("kind" in ('text_carrier', 'mail_server', 'ad_platform', 'funnel_host', 'shop', 'booking_calendar', 'company_directory', 'chat_network', 'service', 'database', 'mail_account', 'file_place', 'calendar_account'));`,
    );
    for (const [table, column, parent] of [
      ['own_calendar', 'connection_id', 'connection'],
      ['calendar_copy', 'own_calendar_id', 'own_calendar'],
    ])
      this.addSql(
        `create trigger "${table}_${column}_same_business" before insert or update of "business_id", "${column}" on "${table}" for each row execute function same_business('${column}', '${parent}');`,
      );
    // Whoever holds, moves or takes out an appointment, it stands in their own calendar within moments.
    this.addSql(`create or replace function tell_own_calendars() returns trigger language plpgsql as $$
      begin
        if tg_op <> 'INSERT' and coalesce(old.uid, '') not like 'own:%' then
          update own_calendar set next_at = now() where business_id = old.business_id and colleague_id = old.colleague_id and writes and next_at > now();
        end if;
        if tg_op <> 'DELETE' and coalesce(new.uid, '') not like 'own:%' then
          update own_calendar set next_at = now() where business_id = new.business_id and colleague_id = new.colleague_id and writes and next_at > now();
        end if;
        return null;
      end $$;`);
    // What was read from a calendar goes with it.
    this.addSql(`create or replace function forget_own_calendar() returns trigger language plpgsql as $$
      begin
        delete from calendar_entry where business_id = old.business_id and colleague_id = old.colleague_id and uid like 'own:' || old.id || ':%';
        return null;
      end $$;`);
    this.addSql(
      `create trigger "own_calendar_gone" after delete on "own_calendar" for each row execute function forget_own_calendar();`,
    );
    this.addSql(
      `create trigger "calendar_entry_told" after insert or delete or update of "colleague_id", "title", "starts_at", "ends_at" on "calendar_entry" for each row execute function tell_own_calendars();`,
    );
  }
}
