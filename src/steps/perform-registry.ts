import { assignOwner } from './assign/perform.ts';
import { serviceCall } from './call-service/perform.ts';
import { companyLookUp } from './company/perform.ts';
import { dealInPipeline } from './deal/perform.ts';
import { setField } from './field/perform.ts';
import { holdInCalendar } from './hold-time/perform.ts';
import { listOfLead } from './list/perform.ts';
import { somethingLookedUp } from './look-up/perform.ts';
import { emailToMany } from './mailing/perform.ts';
import { noteOnLead } from './note/perform.ts';
import { countOutcome } from './outcome/perform.ts';
import { askService } from './service-look-up/perform.ts';
import { onRecordElsewhere } from './service-record/perform.ts';
import { rowInSheet } from './sheet-row/perform.ts';
import type { StepPerformer } from './step-performer.ts';
import { tagLead } from './tag/perform.ts';
import { callTask } from './task/perform.ts';

/** What each kind of step does on the server, beyond messages. A kind that does something is one line here. */
export const stepPerformers: ReadonlyMap<string, StepPerformer> = new Map(
  Object.entries({
    assign: assignOwner,
    'call-service': serviceCall,
    company: companyLookUp,
    deal: dealInPipeline,
    field: setField,
    'hold-time': holdInCalendar,
    list: listOfLead,
    'look-up': somethingLookedUp,
    mailing: emailToMany,
    note: noteOnLead,
    'service-look-up': askService,
    'service-record': onRecordElsewhere,
    'sheet-row': rowInSheet,
    outcome: countOutcome,
    tag: tagLead,
    task: callTask,
  }),
);
