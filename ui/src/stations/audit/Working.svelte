<script lang="ts">
  import Progress from '../../lib/Progress.svelte';
  import { count, type Work } from './audit.svelte';

  // What is on its way and what is being read, or what went wrong.
  let { work, project }: { work: Work; project?: number } = $props();
  const notTaken = $derived(work.notTaken(project));
</script>

{#if work.changing.progress}
  <div class="mt-2 pr-5">
    <Progress
      what={work.changing.progress.wait
        ? `${work.changing.progress.name}: the server asks to wait ${work.changing.progress.wait} seconds; it goes on by itself`
        : work.changing.progress.share < 1
          ? `${work.changing.progress.name}, ${Math.round(work.changing.progress.share * 100)} % sent`
          : `${work.changing.progress.name} is sent; the server takes it`}
      share={work.changing.progress.share}
      stop={work.waiting ? 'pause' : 'give up'}
      cancel={work.changing.cancel}
    />
  </div>
{:else if work.job}
  <div class="mt-2 pr-5">
    <Progress
      what={work.job.state === 'waiting'
        ? `${work.about} waits${work.job.stage ? `: ${work.job.stage}` : ' for its turn'}`
        : `${work.job.kind === 'repaint' ? 'Repainting' : 'Reading'} ${work.about}${work.job.stage ? `: ${work.job.stage}` : ''}`}
      share={work.job.state === 'waiting' ? undefined : work.job.share}
      cancel={work.giveUp}
    />
  </div>
{/if}
{#if work.waiting && !work.changing.busy}
  <p class="mr-5 mt-2 flex flex-wrap items-baseline gap-x-4">
    {count(work.waiting.list.length, 'file')} of {work.waiting.name}
    {work.waiting.list.length === 1 ? 'was' : 'were'} not sent yet.
    <button class="btn btn-primary btn-sm" onclick={work.goOn}>Go on</button>
    <button class="link" onclick={work.leaveIt}>leave it</button>
  </p>
{/if}
{#if notTaken.length > 0 && !work.changing.busy}
  <details class="mr-5 mt-2" open={notTaken.length <= 5}>
    <summary
      >{count(notTaken.length, 'file')}
      {notTaken.length === 1 ? 'is' : 'are'} not judged <button class="link ml-3" onclick={work.seen}>seen</button></summary
    >
    <ul class="mt-1 max-h-40 overflow-y-auto text-small">
      {#each notTaken as f (f.path)}<li><b>{f.path}</b>: {f.why}</li>{/each}
    </ul>
  </details>
{/if}
{#if work.changing.problem}<p role="alert" class="mr-5 mt-2 border-l-4 border-current pl-3">{work.changing.problem}</p>{/if}
