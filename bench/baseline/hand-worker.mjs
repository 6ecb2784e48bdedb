// Takes jobs with FOR UPDATE SKIP LOCKED when LISTEN wakes it, sends the text, marks the run done.
import { connect, listener, sendText, TAKE, workLoop } from './common.mjs';

const pool = connect();
const wake = workLoop(
  async (n) => (await pool.query({ ...TAKE, values: [n] })).rows,
  async (job) => {
    await sendText({ key: `run-${job.run_id}`, phone: job.phone, firstName: job.first_name });
    await pool.query({
      name: 'done',
      text: `with d as (delete from jobs where id = $1 returning run_id)
      update runs set state = 'done', finished_at = now() where id in (select run_id from d)`,
      values: [job.id],
    });
  },
);
await listener('jobs', wake);
wake();
console.log('ready {}');
