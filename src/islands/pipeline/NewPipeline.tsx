import { call } from '../../client/call.ts';
import { NameToMake } from '../../components/NameToMake.tsx';

/** Makes a pipeline with the usual stages and opens it. */
export default function NewPipeline() {
  return (
    <NameToMake
      label="Name of the new pipeline"
      placeholder="Lessons"
      button="Make a pipeline"
      make={async (name) => {
        const made = await call('POST', '/api/pipelines', { name });
        location.assign(`/pipeline/${made.id}`);
      }}
    />
  );
}
