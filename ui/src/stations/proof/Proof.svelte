<script lang="ts">
  import type { Snippet } from 'svelte';
  import { house } from '../../lib/house.svelte';
  import { kept } from '../../lib/kept.svelte';
  import Places from '../../lib/Places.svelte';
  import { navigate, route } from '../../lib/router';
  import { useSubject } from '../../lib/subject.svelte';
  import Boards from './Boards.svelte';
  import Contrast from './Contrast.svelte';
  import Picture from './Picture.svelte';
  import Print from './Print.svelte';
  import Vision from './Vision.svelte';
  import Work from './Work.svelte';

  const views = [
    { key: 'contrast', name: 'Contrast' },
    { key: 'vision', name: 'Color vision' },
    { key: 'work', name: 'At work' },
    { key: 'print', name: 'Print' },
    { key: 'picture', name: 'Picture' },
    { key: 'boards', name: 'Boards' },
  ] as const;
  const view = $derived(route.params.view ?? 'contrast');

  // The subject is chosen once for all views; the address carries it, and the tab remembers it for the next visit.
  const last = kept(`subject-${house.id}`, '');
  const subject = useSubject(() => route.params.subject ?? '');
  $effect(() => {
    if (route.params.subject) last.now = route.params.subject;
    else if (last.now || subject.first) look(last.now || subject.first!);
  });

  const look = (key: string) =>
    void navigate('/h/:house/proof/:view/:subject', {
      params: { house: String(house.id), view, subject: key },
      replace: !route.params.subject,
    });
</script>

{#snippet head(what: string, beside?: Snippet)}
  <div class="flex flex-wrap items-baseline gap-x-5 gap-y-1 px-5 pt-4">
    <h1 class="phone:sr-only">Proof</h1>
    <Places
      label="Views of the proof"
      list={views.map((v) => ({
        name: v.name,
        href: house.path(`proof/${v.key}/${route.params.subject ?? ''}`),
        here: view === v.key,
      }))}
    />
  </div>
  <div class="flex flex-wrap items-center gap-x-4 gap-y-1 px-5 pb-3 pt-1">
    <select
      class="select w-auto max-w-[20rem] font-bold"
      aria-label="What the proof looks at"
      value={route.params.subject ?? ''}
      onchange={(e) => look(e.currentTarget.value)}
    >
      {#each subject.choices as c (c.key)}<option value={c.key}>{c.name}</option>{/each}
    </select>
    <span class="text-small">{what}</span>
    {#if beside}<span class="ml-auto">{@render beside()}</span>{/if}
  </div>
{/snippet}

{#if view === 'print'}
  <Print subject={subject.now} {head} />
{:else if subject.now && view === 'picture'}
  <Picture subject={subject.now} {head} />
{:else if subject.now && view === 'boards'}
  <Boards subject={subject.now} library={subject.library} {head} />
{:else if subject.now && subject.now.colors.length > 0}
  {#if view === 'work'}<Work of={route.params.subject ?? ''} colors={subject.now.colors} {head} />
  {:else if view === 'vision'}<Vision colors={subject.now.colors} {head} />
  {:else}<Contrast colors={subject.now.colors} library={subject.library} {head} />{/if}
{:else}
  <main class="flex min-h-0 flex-col">
    {@render head('')}
    {#if subject.now}<p class="px-5">{subject.now.empty}</p>{/if}
  </main>
{/if}
