<script lang="ts" module>
  /** Who was ticked by hand for which edition, as long as the page is open. */
  const choices = $state<Record<string, boolean>>({});
</script>

<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { opened } from '../../lib/focus';
  import { useChange } from '../../lib/change.svelte';
  import { house, useRecipients } from '../../lib/house.svelte';
  import Differences from './Differences.svelte';
  import { route } from '../../lib/router';
  import Packings from './Packings.svelte';
  import Spread from './Spread.svelte';
  import RecipientForm from './RecipientForm.svelte';
  import { kinds, moment as day, of, outcome, remindable, standing, urgent } from './send';

  let { set }: { set: Schema['SwatchSet'] } = $props();

  const changing = useChange(['sets', 'sheet', 'recipients']);
  const busy = $derived(changing.busy);
  const newest = $derived(set.current || set.editions[0]?.number);
  const line = $derived(set.editions.find((e) => e.number === number));
  let picked = $derived<number | undefined>(Number(route.search.edition) || undefined);
  const number = $derived(picked ?? newest);

  const edition = createQuery(() => ({
    queryKey: ['edition', house.id, set.id, number],
    queryFn: () =>
      need(
        api.GET('/houses/{house}/sets/{set}/editions/{number}', {
          params: { path: { house: house.id, set: set.id, number: number ?? 0 } },
        }),
      ),
    enabled: number !== undefined,
    staleTime: Infinity, // an edition never changes
  }));

  // Ticked beforehand is who got this set before and is behind, nobody else; a tick that somebody set or took away stays as it
  // is for that edition, also after a sending.
  const key = (r: Schema['Holding']) => `${house.id}/${set.id}/${number}/${r.recipient}`;
  const ticked = (r: Schema['Holding']) => choices[key(r)] ?? urgent(r);
  const to = $derived(set.recipients.filter((r) => r.state !== 'paused' && ticked(r)));
  const choose = (list: Schema['Holding'][], on: boolean) => list.forEach((r) => (choices[key(r)] = on));

  const gets = (r: Schema['Holding']) =>
    `${r.name}: ${r.packings.map((n) => edition.data?.packings.find((p) => p.name === n)?.label ?? n).join(', ')}`;
  const target = $derived(
    to.length === 1 ? to[0]?.name : to.length === 2 ? `${to[0]?.name} and ${to[1]?.name}` : `${to.length} recipients`,
  );

  // What is different since the newest edition in force, or between two editions that somebody wants compared.
  let other = $state<number | undefined>(undefined);
  const changes = createQuery(() => ({
    queryKey: ['sets', house.id, set.id, 'compare', other ?? set.current, other === undefined ? 0 : number, set.version],
    queryFn: () =>
      need(
        api.GET('/houses/{house}/sets/{set}/compare', {
          params: {
            path: { house: house.id, set: set.id },
            query: { from: other ?? set.current, to: other === undefined ? 0 : (number ?? 0) },
          },
        }),
      ),
    enabled: other !== undefined || (set.changed && set.current > 0),
  }));
  $effect(() => {
    if (other === number) other = undefined; // an edition is not compared with itself
  });
  const will = $derived(set.recipients.filter((r) => r.state === 'current' || r.state === 'waiting'));
  let note = $state('');

  const fix = () =>
    changing.run(async () => {
      const path = { house: house.id, set: set.id };
      const s = await need(api.POST('/houses/{house}/sets/{set}/editions', { params: { path }, body: { note } }));
      [picked, note] = [undefined, ''];
      return `${s.name} is fixed as edition ${s.editions[0]?.number}`;
    });

  let withdrawing = $state(false);
  let why = $state('');
  const withdraw = () =>
    changing.run(async () => {
      const where = { params: { path: { house: house.id, set: set.id, number: number ?? 0 } } };
      await need(api.PUT('/houses/{house}/sets/{set}/editions/{number}/withdrawal', { ...where, body: { why } }));
      [withdrawing, why] = [false, ''];
      picked = where.params.path.number; // one goes on looking at it
      return {
        said: `Edition ${where.params.path.number} is withdrawn`,
        undo: [way('delete', '/houses/{house}/sets/{set}/editions/{number}/withdrawal', where)],
      };
    });
  const reinstate = () =>
    changing.run(async () => {
      const where = { params: { path: { house: house.id, set: set.id, number: number ?? 0 } } };
      const reason = line?.withdrawn?.why ?? '';
      await need(api.DELETE('/houses/{house}/sets/{set}/editions/{number}/withdrawal', where));
      return {
        said: `Edition ${where.params.path.number} is in force again`,
        undo: [way('put', '/houses/{house}/sets/{set}/editions/{number}/withdrawal', { ...where, body: { why: reason } })],
      };
    });

  const send = () =>
    changing.run(async () => {
      const sent = [...to];
      const s = await need(
        api.POST('/houses/{house}/sets/{set}/editions/{number}/send', {
          params: { path: { house: house.id, set: set.id, number: number ?? 0 } },
          body: { recipients: sent.map((r) => r.recipient) },
        }),
      );
      const now = s.recipients.filter((r) => sent.some((t) => t.recipient === r.recipient));
      const [took, left] = [now.filter((r) => r.receipt?.ok), now.filter((r) => r.state === 'waiting')];
      choose([...took, ...left], false); // who did not take it stays ticked
      return took.length === sent.length
        ? `Taken by ${took.length === 1 ? 'the recipient' : `all ${took.length} recipients`}`
        : outcome(
            [s],
            sent.map((r) => r.recipient),
          );
    });

  const unsaid = $derived(set.recipients.filter(remindable));
  const remind = () =>
    changing.run(async () => {
      const body = { sets: [set.id], recipients: unsaid.map((r) => r.recipient), remind: true };
      const { recipients: n } = await need(api.POST('/houses/{house}/send', { params: { path: { house: house.id } }, body }));
      return `A reminder goes to ${of(n, 'recipient')}`;
    });

  const at = $derived({ edition: `/api/houses/${house.id}/sets/${set.id}/editions/${number}` });
  let adding = $state(false);
  // Who gets this set: a recipient of the house joins it, or leaves it; what it was sent stays on record.
  const recipients = useRecipients();
  const others = $derived((recipients.data ?? []).filter((r) => !set.recipients.some((h) => h.recipient === r.id)));
  const joint = (recipient: number) => ({ params: { path: { house: house.id, set: set.id, recipient } } });
  const join = (r: Schema['Recipient']) =>
    changing.run(async () => {
      await need(api.PUT('/houses/{house}/sets/{set}/recipients/{recipient}', joint(r.id)));
      adding = false;
      return {
        said: `${r.name} gets ${set.name} from now on`,
        undo: [way('delete', '/houses/{house}/sets/{set}/recipients/{recipient}', joint(r.id))],
      };
    });
  const told = (r: Schema['Holding']) =>
    changing.run(async () => {
      const path = { house: house.id, recipient: r.recipient };
      const body = { set: set.id, edition: number ?? 0, note: '' };
      await need(api.POST('/houses/{house}/recipients/{recipient}/receipts', { params: { path }, body }));
      return `On record: ${r.name} has edition ${body.edition}`;
    });
  const leave = (r: Schema['Holding']) =>
    changing.run(async () => {
      const where = joint(r.recipient);
      await need(api.DELETE('/houses/{house}/sets/{set}/recipients/{recipient}', where));
      return {
        said: `${r.name} gets ${set.name} no more`,
        undo: [way('put', '/houses/{house}/sets/{set}/recipients/{recipient}', where)],
      };
    });
</script>

<aside class="min-h-0 overflow-y-auto bg-base-200" aria-label="Editions and recipients">
  {#if edition.data}
    <div class="flex h-[8rem]" role="img" aria-label={`Edition ${edition.data.number}`}>
      {#each edition.data.colors as c (c.name)}<span class="flex-1" style:background={c.hex} title={`${c.name} ${c.hex}`}
        ></span>{/each}
    </div>
  {/if}
  <div class="px-5 pb-8 pt-4">
    <div class="flex items-baseline justify-between gap-3">
      <h2 class="text-[1.4rem]">{set.name}</h2>
      {#if set.editions.length > 1}
        <label class="text-small"
          >edition <select class="select ml-1 w-[4.67rem]" value={number} onchange={(e) => (picked = Number(e.currentTarget.value))}
            >{#each set.editions as e (e.number)}<option value={e.number}>{e.number}</option>{/each}</select
          ></label
        >
      {:else if newest}<span>edition {newest}</span>{/if}
    </div>
    {#if edition.data}<p class="text-small">fixed by {edition.data.by}, {day.format(new Date(edition.data.at))}</p>{/if}
    {#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}

    {#if line?.note}<p class="mt-1">{line.note}</p>{/if}
    {#if line?.withdrawn}
      <p class="mt-2 border-l-4 border-current pl-3">
        <b>Withdrawn</b> by {line.withdrawn.by}, {day.format(new Date(line.withdrawn.at))}: {line.withdrawn.why}
        {#if house.keeper}<button class="link" disabled={busy} onclick={reinstate}>put it in force again</button>{/if}
      </p>
    {/if}
    {#if number !== undefined && set.editions.length > 0}
      <p class="mt-1 flex flex-wrap gap-x-4 text-small">
        {#if set.editions.length > 1}<label
            >compare with <select
              class="select ml-1 w-[5.87rem]"
              value={other ?? ''}
              onchange={(e) => (other = e.currentTarget.value ? Number(e.currentTarget.value) : undefined)}
              ><option value="">…</option>{#each set.editions.filter((e) => e.number !== number) as e (e.number)}<option
                  value={e.number}>{e.number}</option
                >{/each}</select
            ></label
          >{/if}
        {#if house.keeper && !line?.withdrawn}<button
            class="link"
            aria-expanded={withdrawing}
            onclick={() => (withdrawing = !withdrawing)}>withdraw it</button
          >{/if}
      </p>
    {/if}
    {#if withdrawing}
      <form
        class="mt-2 flex gap-2"
        onsubmit={(e) => {
          e.preventDefault();
          void withdraw();
        }}
      >
        <input
          class="input w-full"
          aria-label="Why it is withdrawn"
          placeholder="why; those who hold it are told"
          required
          maxlength="500"
          {@attach opened}
          bind:value={why}
        /><button class="btn btn-primary" disabled={busy}>Withdraw</button>
      </form>
    {/if}
    {#if other !== undefined}
      <div class="mt-3 border border-current p-3">
        <p>
          <b>From edition {other} to edition {number}</b>
          <button class="ml-3 text-small link" onclick={() => (other = undefined)}>close</button>
        </p>
        {#if changes.data?.length === 0}<p class="text-small">They hold the same colors.</p>{/if}
        <Differences list={changes.data ?? []} />
      </div>
    {:else if set.changed}
      <div class="mt-3 border border-current p-3">
        {#if !set.current}<p>
            {set.editions.length > 0
              ? 'Every edition of it is withdrawn.'
              : 'Not fixed yet. An edition is a numbered state that never changes; it is what gets sent.'}
          </p>
        {:else}
          <p><b>Changed since edition {set.current}</b></p>
          <Differences list={changes.data ?? []} />
          {#if (set.changes ?? []).length > 0 && changes.data?.length === 0}<ul class="mt-1 text-small">
              {#each set.changes ?? [] as line (line)}<li>{line}</li>{/each}
            </ul>{/if}
          {#if will.length > 0}<p class="mt-2 text-small">
              Will be behind: {will.map((r) => r.name).join(', ')}.
            </p>{/if}
        {/if}
        {#if house.keeper}<input
            class="input mt-3 w-full"
            aria-label="Note to the edition"
            placeholder="note to those who get it"
            maxlength="500"
            bind:value={note}
          /><button class="btn btn-primary mt-2" disabled={busy || set.colors.length === 0} onclick={fix}
            >Fix as edition {(set.editions[0]?.number ?? 0) + 1}</button
          >{/if}
      </div>
    {/if}

    <div class="flex items-baseline justify-between">
      <h3>Recipients</h3>
      {#if house.keeper}<span class="flex gap-4 text-small">
          {#if number !== undefined && set.recipients.length > 1}<button
              class="link"
              onclick={() => choose(set.recipients, to.length < set.recipients.length)}
              >{to.length < set.recipients.length ? 'tick all' : 'tick none'}</button
            >{/if}
          <button class="link" aria-expanded={adding} onclick={() => (adding = !adding)}>add a recipient</button>
        </span>{/if}
    </div>
    {#if house.keeper && adding}
      {#if others.length > 0}
        <p class="mt-2 flex flex-wrap gap-x-4 text-small">
          Known already: {#each others as r (r.id)}<button class="link" disabled={busy} onclick={() => join(r)}>{r.name}</button
            >{/each}
        </p>
      {/if}
      <RecipientForm sets={[set.id]} done={() => (adding = false)} />
    {/if}
    {#if set.recipients.length === 0}<p>Nobody gets editions yet.</p>{/if}
    <ul>
      {#each set.recipients as r (r.recipient)}
        <li class="rule border-b py-2">
          <label class="grid grid-cols-[2.2rem_1fr_auto] items-start">
            {#if house.keeper && number !== undefined && !line?.withdrawn && r.state !== 'paused'}
              <input class="checkbox mt-0.5" type="checkbox" bind:checked={() => ticked(r), (on) => choose([r], on)} />
            {:else}<span></span>{/if}
            <span
              ><b>{r.name}</b><span class="block text-small"
                >{r.receipt
                  ? `${day.format(new Date(r.receipt.at))}: edition ${r.receipt.edition}. ${r.receipt.message}`
                  : kinds[r.kind]}</span
              ></span
            >
            <span class="text-right text-small" class:font-bold={urgent(r)}>{standing(r)}</span>
          </label>
          <span class="ml-[1.73rem] flex flex-wrap gap-x-4 text-small">
            <a class="link" href={house.path(`send/recipients/${r.recipient}`)}
              ><span class="sr-only">{r.name}: </span>address and receipts</a
            >
            {#if house.keeper}
              {#if number !== undefined && !line?.withdrawn && r.edition !== number && r.state !== 'paused'}<button
                  class="link"
                  disabled={busy}
                  onclick={() => told(r)}><span class="sr-only">{r.name}: </span>they have it</button
                >{/if}
              <button class="link" disabled={busy} onclick={() => leave(r)}
                ><span class="sr-only">{r.name}: </span>take off this set</button
              >
            {/if}
          </span>
        </li>
      {/each}
    </ul>
    {#if house.keeper}
      {#if unsaid.length > 0}<p class="mt-3">
          {unsaid.map((r) => r.name).join(', ')}
          {unsaid.length === 1 ? 'has' : 'have'} not said that edition {set.current} is loaded.
          <button class="link" disabled={busy} onclick={remind}>remind {of(unsaid.length, 'recipient')}</button>
        </p>{/if}
      <div class="mt-3">
        {#if number !== undefined && !line?.withdrawn}<button
            class="btn btn-primary"
            disabled={busy || to.length === 0}
            onclick={send}>{to.length > 0 ? `Send edition ${number} to ${target}` : 'Tick who gets it'}</button
          >{/if}
      </div>
      {#if to.length > 0 && edition.data}<p class="mt-2 text-small">{to.map(gets).join('; ')}</p>{/if}
    {/if}

    <Spread {set} />
    {#if edition.data}<Packings
        edition={edition.data}
        at={at.edition}
        takes={[...new Set(set.recipients.filter((r) => r.state !== 'paused').flatMap((r) => r.packings))]}
      />{/if}
  </div>
</aside>

<style>
  h3 {
    margin: 1.33rem 0 2px;
    font-size: 0.93rem;
    font-weight: 700;
  }
</style>
