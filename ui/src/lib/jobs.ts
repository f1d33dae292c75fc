import { api, need, Problem, type Schema } from './api/client';

type Job = Schema['Job'];

const ended = (j: Job) => j.state === 'done' || j.state === 'failed' || j.state === 'given-up';

/** Waits until a job has ended and tells how far it is meanwhile; throws the problem of one that failed. */
export async function follow(house: number, job: Job, told: (j: Job) => void): Promise<Job> {
  told(job);
  const last = ended(job) ? job : ((await stream(house, job.id, told)) ?? (await poll(house, job.id, told)));
  if (last.state === 'given-up') throw new Problem('It was given up.', 499);
  if (last.state === 'failed') throw new Problem(last.problem?.title ?? 'It came to no end.', last.problem?.status ?? 500);
  return last;
}

/** Listens to the server's events; undefined if they break off, as behind some proxies. */
function stream(house: number, id: number, told: (j: Job) => void): Promise<Job | undefined> {
  return new Promise((resolve) => {
    const source = new EventSource(`/api/houses/${house}/jobs/${id}/events`);
    const end = (j?: Job) => {
      source.close();
      resolve(j);
    };
    source.onmessage = (e: MessageEvent<string>) => {
      const j = JSON.parse(e.data) as Job;
      told(j);
      if (ended(j)) end(j);
    };
    source.onerror = () => end();
  });
}

/** Asks now and then. */
async function poll(house: number, id: number, told: (j: Job) => void): Promise<Job> {
  for (;;) {
    const j = await need(api.GET('/houses/{house}/jobs/{job}', { params: { path: { house, job: id } } }));
    told(j);
    if (ended(j)) return j;
    await new Promise((r) => setTimeout(r, 1000));
  }
}
