import type { StepKind } from '../core/workflow/step-kind.ts';
import { ask } from './ask/definition.ts';
import { assign } from './assign/definition.ts';
import { callService } from './call-service/definition.ts';
import { chat } from './chat/definition.ts';
import { chatTemplate } from './chat-template/definition.ts';
import { check } from './check/definition.ts';
import { company } from './company/definition.ts';
import { deal } from './deal/definition.ts';
import { email } from './email/definition.ts';
import { field } from './field/definition.ts';
import { holdTime } from './hold-time/definition.ts';
import { list } from './list/definition.ts';
import { lookUp } from './look-up/definition.ts';
import { mailing } from './mailing/definition.ts';
import { note } from './note/definition.ts';
import { outcome } from './outcome/definition.ts';
import { serviceLookUp } from './service-look-up/definition.ts';
import { serviceRecord } from './service-record/definition.ts';
import { sheetRow } from './sheet-row/definition.ts';
import { tag } from './tag/definition.ts';
import { task } from './task/definition.ts';
import { tell } from './tell/definition.ts';
import { text } from './text/definition.ts';
import { tidy } from './tidy/definition.ts';

/** Every kind of step, by its name in a definition, in the order of the menu. A new kind is one folder and one line here. */
export const stepKinds: ReadonlyMap<string, StepKind> = new Map(
  [
    tidy,
    check,
    lookUp,
    company,
    serviceLookUp,
    assign,
    text,
    ask,
    email,
    chatTemplate,
    chat,
    mailing,
    sheetRow,
    tag,
    list,
    deal,
    field,
    note,
    outcome,
    tell,
    task,
    holdTime,
    serviceRecord,
    callService,
  ].map((kind) => [kind.kind, kind as unknown as StepKind]),
);
