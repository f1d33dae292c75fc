<script lang="ts">
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange, type Change } from '../../lib/change.svelte';
  import { opened } from '../../lib/focus';
  import { house } from '../../lib/house.svelte';
  import { copy } from '../../lib/state.svelte';
  import { letter } from './option';

  // What was shown of the board: fixed sheets, as link, PDF and PNG, and what people answered.
  let {
    board,
    changing,
    take,
    saved,
  }: { board: Schema['Board']; changing: Change; take: (b: Schema['Board']) => void; saved: () => Promise<unknown> } = $props();

  const path = $derived({ house: house.id, board: board.id });
  const later = (days: number) => new Date(Date.now() + days * 864e5).toISOString().slice(0, 10);
  let until = $state(later(14));
  let phrase = $state('');
  let asking = $state(0); // the sheet that a link with other terms is made for

  const fix = async () => {
    await saved();
    const b = await need(api.POST('/houses/{house}/boards/{board}/sheets', { params: { path }, body: { version: board.version } }));
    take(b);
    return b.sheets[0]!.number;
  };
  const link = async (number: number) => {
    const made = await need(
      api.POST('/houses/{house}/boards/{board}/sheets/{number}/links', {
        params: { path: { ...path, number } },
        body: { ...(until ? { until: `${until}T23:59:59Z` } : {}), ...(phrase.trim() ? { phrase } : {}) },
      }),
    );
    take(made.board);
    asking = 0;
    await copy(
      location.origin + made.path,
      `The link to sheet ${number}${phrase.trim() ? ', which asks for the pass phrase,' : ''}`,
    );
    phrase = '';
  };
  const share = () => changing.run(async () => link(await fix()));
  const fixOnly = () => changing.run(async () => `Sheet ${await fix()} is fixed; it never changes`);
  const close = (l: Schema['BoardLink']) =>
    changing.run(async () => {
      await need(api.DELETE('/houses/{house}/boards/{board}/links/{link}', { params: { path: { ...path, link: l.id } } }));
      return 'The link is closed; whoever opens it is told so';
    });
  const adopting = useChange(['sets', 'ledger', 'sheet']);
  const adopt = (number: number, choice: number) =>
    adopting.run(async () => {
      const a = await need(
        api.POST('/houses/{house}/boards/{board}/sheets/{number}/adopt', {
          params: { path: { ...path, number } },
          body: { choice },
        }),
      );
      const more = a.admitted.length ? `; ${a.admitted.join(', ')} came into the library` : '';
      return {
        said: `The swatch set ${a.set} is there, with ${a.rules === 1 ? '1 rule' : `${a.rules} rules`}${more}`,
        next: { name: 'look at it', href: house.path(`send/${a.setId}`) },
      };
    });
  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
  const when = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium', timeStyle: 'short' });
  const votes = (s: Schema['BoardSheet'], at: number) => s.answers.filter((a) => a.choice === at).length;
</script>

{#snippet terms()}
  <label class="flex items-center gap-2"
    >open until <input class="input w-auto" type="date" min={later(0)} bind:value={until} /></label
  >
  <label class="flex items-center gap-2"
    >pass phrase <input class="input w-[10rem]" placeholder="none" autocomplete="off" bind:value={phrase} /></label
  >
{/snippet}

<section class="mt-6" aria-label="Sheets">
  <div class="flex flex-wrap items-center gap-x-4 gap-y-2">
    <h2 class="text-[1.27rem]">Show it</h2>
    {#if house.keeper}
      {@render terms()}
      <button class="btn btn-primary" disabled={changing.busy || board.content.options.length === 0} onclick={share}
        >Fix as sheet {(board.sheets[0]?.number ?? 0) + 1} and copy a link</button
      >
    {/if}
    <button class="link" disabled={changing.busy || board.content.options.length === 0} onclick={fixOnly}>fix it only</button>
  </div>
  {#if adopting.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{adopting.problem}</p>{/if}
  {#each board.sheets as s (s.number)}
    <article class="rule mt-3 border-t pt-2" aria-label={`Sheet ${s.number}`}>
      <p class="flex flex-wrap items-baseline gap-x-4">
        <b>Sheet {s.number}</b>
        <span class="text-small">fixed {when.format(new Date(s.fixed))} by {s.by}</span>
        {#each ['pdf', 'png'] as form (form)}<a
            class="link"
            download
            href={`/api/houses/${house.id}/boards/${board.id}/sheets/${s.number}/files/${form}`}>{form.toUpperCase()}</a
          >{/each}
        {#if house.keeper}<button
            class="link"
            aria-expanded={asking === s.number}
            onclick={() => (asking = asking === s.number ? 0 : s.number)}>another link</button
          >{/if}
      </p>
      {#if asking === s.number}
        <form
          class="mt-2 flex flex-wrap items-center gap-4"
          {@attach opened}
          onsubmit={(e) => {
            e.preventDefault();
            void changing.run(() => link(s.number));
          }}
        >
          {@render terms()}<button class="btn btn-primary" disabled={changing.busy}>Copy the link</button>
        </form>
      {/if}
      {#if s.links.length > 0}
        <ul class="text-small">
          {#each s.links as l (l.id)}
            <li class="flex flex-wrap gap-x-3">
              <span
                >Link of {when.format(new Date(l.at))}{l.asks ? ', with a pass phrase' : ''}, {l.open
                  ? l.until
                    ? `open until ${day.format(new Date(l.until))}`
                    : 'open'
                  : 'closed'}</span
              >
              {#if l.open}<button class="link" disabled={changing.busy} onclick={() => close(l)}>close it</button>{/if}
            </li>
          {/each}
        </ul>
      {/if}
      <div class="mt-1 grid grid-cols-[auto_minmax(0,1fr)_auto] items-baseline gap-x-4 gap-y-1">
        {#each Array.from({ length: s.options }, (_, i) => i).filter((i) => votes(s, i) > 0 || s.answers.length === 0) as i (i)}
          <b>{letter(i)}</b>
          <span
            >{#each s.answers.filter((a) => a.choice === i) as a (a.name)}
              <span class="block"
                ><b>{a.name}</b>{a.comment ? `: ${a.comment}` : ''}
                <span class="text-small">{when.format(new Date(a.at))}{a.at === a.first ? '' : ', changed'}</span></span
              >
            {:else}<span class="text-small">no answer yet</span>{/each}</span
          >
          {#if house.keeper}<button class="link text-small" disabled={adopting.busy} onclick={() => adopt(s.number, i)}
              >make {letter(i)} a swatch set with rules</button
            >{:else}<span></span>{/if}
        {/each}
      </div>
    </article>
  {/each}
</section>
