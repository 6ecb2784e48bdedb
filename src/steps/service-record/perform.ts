import type { StepPerformer } from '../step-performer.ts';
import type { RecordElsewhere } from './definition.ts';

export const onRecordElsewhere: StepPerformer = {
  call: (outside, what, { businessId, leadId, key }) =>
    outside.elsewhere.putOnRecord({ businessId, leadId, key, ...(what as RecordElsewhere) }),
};
