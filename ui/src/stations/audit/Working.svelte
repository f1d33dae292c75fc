<script lang="ts">
  import Progress from '../../lib/Progress.svelte';
  import type { Work } from './audit.svelte';

  // What is on its way and what is being read, or what went wrong.
  let { work }: { work: Work } = $props();
</script>

{#if work.changing.progress}
  <div class="mt-2 pr-5">
    <Progress
      what={work.changing.progress.share < 1
        ? `${work.changing.progress.name}, ${Math.round(work.changing.progress.share * 100)} % sent`
        : `${work.changing.progress.name} is sent; the server takes it`}
      share={work.changing.progress.share}
      cancel={work.changing.cancel}
    />
  </div>
{:else if work.job}
  <div class="mt-2 pr-5">
    <Progress
      what={work.job.state === 'waiting'
        ? `${work.about} waits for its turn`
        : `${work.job.kind === 'repaint' ? 'Repainting' : 'Reading'} ${work.about}${work.job.stage ? `: ${work.job.stage}` : ''}`}
      share={work.job.state === 'waiting' ? undefined : work.job.share}
      cancel={work.giveUp}
    />
  </div>
{/if}
{#if work.changing.problem}<p role="alert" class="mr-5 mt-2 border-l-4 border-current pl-3">{work.changing.problem}</p>{/if}
