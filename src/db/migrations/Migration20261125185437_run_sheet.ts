import { Migration } from '@mikro-orm/migrations';

export class Migration20261125185437_run_sheet extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "lead_note" ("id" uuid not null, "business_id" uuid not null, "lead_id" uuid not null, "text" text not null, "at" timestamptz not null, "run_id" uuid null, "author_id" uuid null, constraint "lead_note_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "lead_note_lead" on "lead_note" ("lead_id", "at");`);

    this.addSql(
      `create table "calendar_entry" ("id" uuid not null, "business_id" uuid not null, "colleague_id" uuid not null, "lead_id" uuid null, "title" text not null, "starts_at" timestamptz not null, "ends_at" timestamptz not null, "run_id" uuid null, "created_at" timestamptz not null, constraint "calendar_entry_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "calendar_entry_colleague" on "calendar_entry" ("colleague_id", "starts_at");`);
    this.addSql(`create index "calendar_entry_lead" on "calendar_entry" ("lead_id");`);

    this.addSql(
      `create table "tag" ("id" uuid not null, "business_id" uuid not null, "name" varchar(255) not null, "created_at" timestamptz not null, constraint "tag_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "tag" add constraint "tag_name" unique ("business_id", "name");`);

    this.addSql(
      `create table "lead_tag" ("lead_id" uuid not null, "tag_id" uuid not null, "at" timestamptz not null, "run_id" uuid null, constraint "lead_tag_pkey" primary key ("lead_id", "tag_id"));`,
    );

    this.addSql(
      `create table "task" ("id" uuid not null, "business_id" uuid not null, "lead_id" uuid not null, "colleague_id" uuid null, "title" text not null, "due_at" timestamptz not null, "created_at" timestamptz not null, "done_at" timestamptz null, "run_id" uuid null, constraint "task_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "task_open" on "task" ("business_id", "due_at") where "done_at" is null;`);
    this.addSql(`create index "task_lead" on "task" ("lead_id");`);

    this.addSql(
      `create table "moment_result" ("run_id" uuid not null, "moment_id" varchar(255) not null, "business_id" uuid not null, "began_at" timestamptz not null, "case_id" varchar(255) null, "skipped" text null, "compared" jsonb not null, constraint "moment_result_pkey" primary key ("run_id", "moment_id"));`,
    );

    this.addSql(
      `alter table "lead_note" add constraint "lead_note_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "lead_note" add constraint "lead_note_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "lead_note" add constraint "lead_note_author_id_foreign" foreign key ("author_id") references "person" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "calendar_entry" add constraint "calendar_entry_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "calendar_entry" add constraint "calendar_entry_colleague_id_foreign" foreign key ("colleague_id") references "person" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "calendar_entry" add constraint "calendar_entry_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "tag" add constraint "tag_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "lead_tag" add constraint "lead_tag_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "lead_tag" add constraint "lead_tag_tag_id_foreign" foreign key ("tag_id") references "tag" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "task" add constraint "task_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "task" add constraint "task_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "task" add constraint "task_colleague_id_foreign" foreign key ("colleague_id") references "person" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "moment_result" add constraint "moment_result_run_id_foreign" foreign key ("run_id") references "run" ("id") on update cascade;`,
    );

    this.addSql(`alter table "step_result" drop constraint if exists "step_result_state_check";`);

    this.addSql(`alter table "listening" drop constraint if exists "listening_same_person_check";`);

    this.addSql(`alter table "business" add column "holidays" jsonb not null default '[]';`);

    this.addSql(`alter table "lead" add column "owner_id" uuid null;`);

    this.addSql(`alter table "arrival" add column "means" text check ("means" in ('booked', 'bought')) null;`);

    this.addSql(
      `alter table "run" add column "moment_id" varchar(255) null, add column "moment_at" timestamptz null, add column "waits_for" jsonb null, add column "happened" jsonb null;`,
    );
    this.addSql(
      `create index "run_waiting" on "run" ("lead_id") where "moment_id" is not null and "due_at" is not null;`,
    );

    this.addSql(`alter table "step_result" add column "instead" jsonb null, add column "results" jsonb null;`);
    this.addSql(
      `alter table "step_result" add constraint "step_result_state_check" check("state" in ('done', 'nothing', 'again', 'held', 'refused', 'ask', 'skipped'));`,
    );

    this.addSql(
      `alter table "listening" add column "again_after_days" int not null default 30, add column "known_by" text check ("known_by" in ('workflow', 'source')) not null default 'workflow';`,
    );
    this.addSql(
      `alter table "listening" add constraint "listening_same_person_check" check("same_person" in ('nothing', 'update_only', 'run_again_after', 'run_again'));`,
    );
    this.addSql(`alter table "membership" add column "away_until" timestamptz null;`);
    this.addSql(
      `alter table "workflow" add column "turns" jsonb not null default '{}', add column "failures_told_at" timestamptz null;`,
    );
    this.addSql(`alter table "needs_you" drop constraint if exists "needs_you_kind_check";`);
    this.addSql(
      `alter table "needs_you" add constraint "needs_you_kind_check" check ("kind" in ('message_refused', 'step_asks', 'arrival_refused', 'message_lost', 'step_failed', 'source_trouble', 'entries_expiring'));`,
    );
    // Sheets stored before: what a step does when it fails moves from its settings to the step, and conditions begin empty.
    this.addSql(`create function pg_temp.upgraded_steps(steps jsonb) returns jsonb language sql as $$
      select coalesce(jsonb_agg(step || jsonb_build_object('onlyIf', null, 'settings', (step -> 'settings') - 'ifRefused',
        'ifFails', jsonb_build_object('tryForMinutes', 60, 'after', coalesce(step -> 'settings' ->> 'ifRefused', 'carry_on'))) order by n), '[]')
      from jsonb_array_elements(steps) with ordinality s (step, n) $$;`);
    this.addSql(`create function pg_temp.upgraded_sheet(sheet jsonb) returns jsonb language sql as $$
      select sheet || jsonb_build_object('moments', (select jsonb_agg(moment || jsonb_build_object('onlyIf', null, 'cases', '[]'::jsonb,
          'first', pg_temp.upgraded_steps(moment -> 'first'), 'lanes', jsonb_build_object('lead', pg_temp.upgraded_steps(moment #> '{lanes,lead}'),
          'record', pg_temp.upgraded_steps(moment #> '{lanes,record}'), 'team', pg_temp.upgraded_steps(moment #> '{lanes,team}'))) order by n)
        from jsonb_array_elements(sheet -> 'moments') with ordinality m (moment, n)),
        'rules', (sheet -> 'rules') || '{"againAfterDays": 30, "knownBy": "workflow", "hours": {"text": null, "email": null}, "endsWhen": [], "mostAtOnce": null, "tell": null}') $$;`);
    this.addSql(`update workflow set draft = pg_temp.upgraded_sheet(draft);`);
    this.addSql(`update workflow_version set definition = pg_temp.upgraded_sheet(definition);`);
  }

  override async down(): Promise<void> {
    this.addSql(`alter table "lead_tag" drop constraint "lead_tag_tag_id_foreign";`);

    this.addSql(`drop table if exists "lead_note" cascade;`);

    this.addSql(`drop table if exists "calendar_entry" cascade;`);

    this.addSql(`drop table if exists "tag" cascade;`);

    this.addSql(`drop table if exists "lead_tag" cascade;`);

    this.addSql(`drop table if exists "task" cascade;`);

    this.addSql(`drop table if exists "moment_result" cascade;`);

    this.addSql(`alter table "listening" drop constraint if exists "listening_same_person_check";`);

    this.addSql(`alter table "step_result" drop constraint if exists "step_result_state_check";`);

    this.addSql(`alter table "membership" drop column "away_until";`);
    this.addSql(`alter table "workflow" drop column "turns", drop column "failures_told_at";`);
    this.addSql(`alter table "arrival" drop column "means";`);

    this.addSql(`alter table "business" drop column "holidays";`);

    this.addSql(`alter table "lead" drop column "owner_id";`);

    this.addSql(`alter table "listening" drop column "again_after_days", drop column "known_by";`);

    this.addSql(
      `alter table "listening" add constraint "listening_same_person_check" check("same_person" in ('update_only', 'run_again'));`,
    );

    this.addSql(`drop index "run_waiting";`);
    this.addSql(
      `alter table "run" drop column "moment_id", drop column "moment_at", drop column "waits_for", drop column "happened";`,
    );

    this.addSql(`alter table "step_result" drop column "instead", drop column "results";`);

    this.addSql(
      `alter table "step_result" add constraint "step_result_state_check" check("state" in ('done', 'nothing', 'again', 'refused', 'ask', 'skipped'));`,
    );
  }
}
