<script lang="ts">
  import { createInfiniteQuery, keepPreviousData } from '@tanstack/svelte-query';
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';
  import { rem } from '../../lib/rem.svelte';
  import { backTo, navigate } from '../../lib/router';
  import { copy } from '../../lib/state.svelte';
  import RecipientForm from './RecipientForm.svelte';
  import ListFind from '../../lib/ListFind.svelte';
  import { usePackings, useTroubles } from './packings';
  import { kinds, moment, of, standing, urgent, ways } from './send';

  // One recipient: what it takes and how, its address, what it was sent and what came back.
  let { recipient: r }: { recipient: Schema['Recipient'] } = $props();

  const packings = usePackings();
  const changing = useChange(['sets', 'recipients', 'sheet']);
  const where = $derived({ params: { path: { house: house.id, recipient: r.id } } });
  // Receipts come a page at a time, and those only that have what is typed in them.
  let words = $state('');
  const page = 200;
  const receipts = createInfiniteQuery(() => ({
    queryKey: ['recipients', house.id, r.id, 'receipts', words.trim()],
    queryFn: ({ pageParam }) =>
      need(
        api.GET('/houses/{house}/recipients/{recipient}/receipts', {
          params: { ...where.params, query: { before: pageParam, words: words.trim() || undefined } },
        }),
      ),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last) => (last.length < page ? undefined : last.at(-1)?.id),
    placeholderData: keepPreviousData,
  }));
  const list = $derived(receipts.data?.pages.flat() ?? []);
  const troubles = useTroubles();
  const mine = $derived((troubles.data ?? []).filter((t) => t.recipient === r.id));
  let editing = $state(false);

  const renew = () =>
    changing.run(async () => {
      const had = r.pickup;
      const made = await need(api.POST('/houses/{house}/recipients/{recipient}/pickup', where));
      await copy(location.origin + made.path, `The ${had ? 'new ' : ''}address of ${r.name}`);
    });
  const close = () =>
    changing.run(async () => {
      await need(api.DELETE('/houses/{house}/recipients/{recipient}/pickup', where));
      return `The addresses of ${r.name} are closed; whoever opens one is told so`;
    });
  const pause = (on: boolean) =>
    changing.run(async () => {
      const path = '/houses/{house}/recipients/{recipient}/pause';
      await need(on ? api.PUT(path, where) : api.DELETE(path, where));
      return {
        said: on ? `${r.name} is paused: nothing is sent there` : `${r.name} gets editions again`,
        undo: [on ? way('delete', path, where) : way('put', path, where)],
      };
    });
  const remove = () =>
    changing.run(async () => {
      const [name, back] = [r.name, where];
      await need(api.DELETE('/houses/{house}/recipients/{recipient}', where));
      await navigate('/h/:house/send/recipients', { params: { house: String(house.id) }, replace: true });
      return {
        said: `${name} is removed; what it was sent stays on record`,
        undo: [way('post', '/houses/{house}/recipients/{recipient}/restore', back)],
      };
    });
  const told = (h: Schema['Holding']) =>
    changing.run(async () => {
      const body = { set: h.set, edition: h.current, note: '' };
      await need(api.POST('/houses/{house}/recipients/{recipient}/receipts', { ...where, body }));
      return `On record: ${r.name} has edition ${h.current} of ${h.setName}`;
    });
  const send = (h: Schema['Holding']) =>
    changing.run(async () => {
      const path = { house: house.id, set: h.set, number: h.current };
      const s = await need(
        api.POST('/houses/{house}/sets/{set}/editions/{number}/send', { params: { path }, body: { recipients: [r.id] } }),
      );
      const now = s.recipients.find((x) => x.recipient === r.id);
      return now?.receipt?.message ?? 'Sent';
    });
  const kit = (h: Schema['Holding']) => `/api/houses/${house.id}/sets/${h.set}/editions/${h.current}/kits/${r.id}`;
  const label = (name?: string) => packings.data?.find((p) => p.name === name)?.label ?? name ?? '';
</script>

<aside class="min-h-0 overflow-y-auto bg-base-200 px-5 pb-8 pt-4" aria-label={r.name}>
  {#if rem.phone}<a class="flex min-h-[2.93rem] items-center font-bold" href={house.path('send/recipients')} onclick={backTo}
      >‹ Recipients</a
    >{/if}
  <h2 class="text-[1.4rem]">{r.name}</h2>
  <p class="text-small">{kinds[r.kind]}{r.note ? `. ${r.note}` : ''}</p>
  {#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
  {#if house.keeper}
    <p class="mt-2 flex flex-wrap gap-x-4 text-small">
      <button class="link" aria-expanded={editing} onclick={() => (editing = !editing)}>change</button>
      <button class="link" disabled={changing.busy} onclick={() => pause(!r.paused)}>{r.paused ? 'end the pause' : 'pause'}</button>
      <button class="link" disabled={changing.busy} onclick={remove}>remove</button>
    </p>
  {/if}
  {#if editing}<RecipientForm known={r} done={() => (editing = false)} />
  {:else}
    <dl class="mt-3 grid grid-cols-[4.8rem_1fr] gap-y-1">
      <dt class="text-small">takes</dt>
      <dd>{r.packings.map(label).join(', ')}</dd>
      <dt class="text-small">how</dt>
      <dd>{r.ways.map((w) => ways[w]).join(', ')}{r.email ? `: ${r.email}` : ''}</dd>
    </dl>
  {/if}

  {#if house.keeper && r.ways.includes('pickup')}
    <h3>Its address</h3>
    <p class="text-small">
      {r.pickup
        ? `Open, made by ${r.pickup.by}, ${moment.format(new Date(r.pickup.at))}. `
        : 'It has no address that is open. '}{r.fetched ? `Last fetched ${moment.format(new Date(r.fetched))}.` : ''}
    </p>
    <p class="mt-2 flex gap-3">
      <button class="btn btn-primary" disabled={changing.busy} onclick={renew}
        >{r.pickup ? 'Renew it, and copy it' : 'Make one, and copy it'}</button
      >
      {#if r.pickup}<button class="btn btn-plain" disabled={changing.busy} onclick={close}>Close it</button>{/if}
    </p>
    <p class="mt-1 text-small">The address is shown once, when it is made; a new one closes the one before.</p>
  {/if}

  <h3>What it holds</h3>
  <ul>
    {#each r.holdings as h (h.set)}
      <li class="rule border-b py-2">
        <p class="flex justify-between gap-3">
          <a class="inline-block min-h-[1.6rem] font-bold" href={house.path(`send/${h.set}`)}>{h.setName}</a>
          <span class="text-right text-small" class:font-bold={urgent(h)}>{standing(h)}</span>
        </p>
        {#if h.current > 0}<p class="flex flex-wrap gap-x-4 text-small">
            <a class="link" href={kit(h)} download><span class="sr-only">{h.setName}: </span>its kit, edition {h.current}</a>
            {#if house.keeper && h.edition !== h.current && !r.paused}
              <button class="link" disabled={changing.busy} onclick={() => send(h)}
                ><span class="sr-only">{h.setName}: </span>{h.state === 'waiting' && h.ways.includes('mail') ? 'remind of' : 'send'} edition
                {h.current}</button
              >
              <button class="link" disabled={changing.busy} onclick={() => told(h)}
                ><span class="sr-only">{h.setName}: </span>they told me they have it</button
              >
            {/if}
          </p>{/if}
      </li>
    {:else}<li>It gets no set. Press “change” to choose some.</li>{/each}
  </ul>

  {#if mine.length > 0}
    <h3>Did not work</h3>
    <ul>
      {#each mine as t (t.id)}<li>
          {label(t.packing)} of {t.setName}, edition {t.edition}{t.tried ? `: ${t.tried}` : ''}
          <a class="link text-small" href={house.path(`send/loading/${t.note}`)}
            >mend the note<span class="sr-only">: {label(t.packing)}</span></a
          >
        </li>{/each}
    </ul>
  {/if}

  <h3>Receipts</h3>
  <ListFind bind:words of={list.length} label="Find in the receipts" />
  <ul class="text-small">
    {#each list as x (x.id)}
      <li class="rule border-b py-1.5">
        <b>{x.setName}, edition {x.edition}</b>{x.packing ? `, ${label(x.packing)}` : ''}<br />
        {moment.format(new Date(x.at))}: {x.message}
        {#if x.client}By {x.client}{(x.times ?? 1) > 1 && x.until
            ? `, ${of(x.times ?? 1, 'time')}, last ${moment.format(new Date(x.until))}`
            : ''}.{/if}
      </li>
    {:else}<li>{words ? 'No receipt has that.' : 'Nothing was sent yet.'}</li>{/each}
  </ul>
  {#if receipts.hasNextPage}<button class="link mt-2" disabled={receipts.isFetching} onclick={() => receipts.fetchNextPage()}
      >older ones</button
    >{/if}
</aside>

<style>
  h3 {
    margin: 1.33rem 0 2px;
    font-size: 0.93rem;
    font-weight: 700;
  }
</style>
