<script lang="ts">
  import { type Schema } from '../../lib/api/client';
  import { count, type Look } from './audit.svelte';

  // What of a judged file is looked at: which page, before or after, and what is to be said of it.
  let {
    view,
    kind,
    name,
    look,
    offers,
    turn,
    to,
    text,
    large = $bindable(),
    told,
    more,
    from,
  }: {
    view: Schema['AuditView'];
    kind: 'frame' | 'page';
    name: (n: number) => string; // of a page
    look: Look;
    offers: Look[];
    turn: (page: number) => void;
    to: (look: Look) => void;
    text: () => void; // to what is written
    large: boolean;
    told: string; // what moves
    more: number; // places that are not marked
    from: string; // where it is looked at from
  } = $props();

  const called = $derived<Record<Look, string>>({
    before: 'before',
    after: offers.some((o) => o === 'planned' || o === 'made') ? 'after, as proposed' : 'after',
    planned: 'after, as planned',
    made: 'after, as repainted',
    alone: 'this one alone',
  });
</script>

<div class="w-[11.5rem] shrink-0 text-small max-[40rem]:w-full">
  {#if view.pages > 1}
    <h2 class="text-[0.93rem]">{kind === 'frame' ? 'Frames' : 'Pages'}</h2>
    <div class="mt-1 flex max-h-[12rem] flex-wrap gap-1 overflow-y-auto">
      {#each { length: view.pages }, i (i)}<button
          class="leaf"
          aria-current={view.page === i + 1 ? 'page' : undefined}
          aria-label={`${kind === 'frame' ? 'Frame' : 'Page'} ${name(i + 1)}`}
          onclick={() => turn(i + 1)}>{name(i + 1)}</button
        >{/each}
    </div>
    {#if look === 'alone' && view.on.length > 0}<p class="mt-1">
        It stands on {kind}{view.on.length === 1 ? '' : 's'}
        {view.on.slice(0, 20).map(name).join(', ')}{view.on.length > 20 ? ' and more' : ''}.
      </p>{/if}
  {/if}
  <h2 class="mt-3 text-[0.93rem]">Look at</h2>
  <div class="mt-1 flex flex-wrap gap-1">
    {#each offers as o (o)}<button class="btn btn-sm" aria-pressed={look === o} onclick={() => to(o)}>{called[o]}</button>{/each}
    <button class="btn btn-sm" aria-pressed={large} onclick={() => (large = !large)}>larger</button>
    {#if view.form === 'drawing'}<button class="btn btn-sm" onclick={text}>as text</button>{/if}
  </div>
  {#if told}<p class="mt-2">{told}</p>{/if}
  {#if from}<p class="mt-2">
      <a class="link" href={from}>{look === 'planned' ? 'back to the plan' : 'back to what was repainted'}</a>
    </p>{/if}
  {#if view.why}<p class="mt-2">{view.why}</p>{/if}
  {#if more}<p class="mt-2">
      {count(more, 'more place')} on this {kind}
      {more === 1 ? 'is' : 'are'} not marked.
    </p>{/if}
</div>

<style>
  .leaf {
    min-width: 2rem;
    padding: 0 0.4rem;
    height: 2rem;
    border: 1px solid currentColor;
    background: var(--color-base-200);
  }
  .leaf[aria-current] {
    outline: 2px solid currentColor;
    font-weight: bold;
  }
</style>
