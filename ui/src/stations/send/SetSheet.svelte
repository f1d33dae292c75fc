<script lang="ts" module>
  /** Who was ticked by hand for which edition, as long as the page is open. */
  const choices = $state<Record<string, boolean>>({});
</script>

<script lang="ts">
  import { opened } from '../../lib/focus';
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house, useLimits, useRecipients } from '../../lib/house.svelte';

  let { set }: { set: Schema['SwatchSet'] } = $props();

  const limits = useLimits();

  const changing = useChange(['sets', 'sheet', 'recipients']);
  const busy = $derived(changing.busy);
  const newest = $derived(set.editions[0]?.number);
  let picked = $state<number | undefined>(undefined);
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
  const ticked = (r: Schema['Holding']) => choices[key(r)] ?? (r.state === 'behind' || r.state === 'failed');
  const to = $derived(set.recipients.filter(ticked));
  const choose = (list: Schema['Holding'][], on: boolean) => list.forEach((r) => (choices[key(r)] = on));

  const gets = (r: Schema['Holding']) =>
    `${r.name}: ${edition.data?.packings.find((p) => p.name === r.packing)?.label ?? r.packing}`;
  const target = $derived(
    to.length === 1 ? to[0]?.name : to.length === 2 ? `${to[0]?.name} and ${to[1]?.name}` : `${to.length} recipients`,
  );

  const fix = () =>
    changing.run(async () => {
      const s = await need(api.POST('/houses/{house}/sets/{set}/editions', { params: { path: { house: house.id, set: set.id } } }));
      picked = undefined;
      return `${s.name} is fixed as edition ${s.editions[0]?.number}`;
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
      const took = s.recipients.filter((r) => r.receipt?.ok && sent.some((t) => t.recipient === r.recipient));
      choose(took, false); // who did not take it stays ticked
      return took.length === sent.length
        ? `Taken by ${took.length === 1 ? 'the recipient' : `all ${took.length} recipients`}`
        : `Taken by ${took.length} of ${sent.length} recipients`;
    });

  const standing = (r: Schema['Holding']) => {
    switch (r.state) {
      case 'never':
        return 'holds no edition';
      case 'current':
        return `holds edition ${r.edition}`;
      case 'behind':
        return `behind: holds edition ${r.edition}`;
      default:
        return 'the last sending was not taken';
    }
  };
  // The twelve slots of a theme in plain words.
  const plain: Record<string, string> = {
    dk1: 'text',
    lt1: 'ground',
    dk2: 'text 2',
    lt2: 'ground 2',
    hlink: 'link',
    folHlink: 'link seen',
  };
  const slotName = (s: string) => plain[s] ?? s.replace(/^accent(\d)$/, 'accent $1');
  const kinds: Record<string, string> = { office: 'office suite', web: 'web' };
  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium', timeStyle: 'short' });

  let adding = $state(false);
  let who = $state({ name: '', kind: 'office', note: '' });
  const add = () =>
    changing.run(async () => {
      const body = { ...who, sets: [set.id] };
      await need(api.POST('/houses/{house}/recipients', { params: { path: { house: house.id } }, body }));
      const name = who.name;
      adding = false;
      who = { name: '', kind: 'office', note: '' };
      return `${name} gets ${set.name} from now on`;
    });

  // Who gets this set: a recipient of the house joins it, or leaves it; what it was sent stays on record.
  const recipients = useRecipients();
  const others = $derived((recipients.data ?? []).filter((r) => !set.recipients.some((h) => h.recipient === r.id)));
  const at = (recipient: number) => ({ params: { path: { house: house.id, set: set.id, recipient } } });
  const join = (r: Schema['Recipient']) =>
    changing.run(async () => {
      await need(api.PUT('/houses/{house}/sets/{set}/recipients/{recipient}', at(r.id)));
      adding = false;
      return `${r.name} gets ${set.name} from now on`;
    });
  const leave = (r: Schema['Holding']) =>
    changing.run(async () => {
      const where = at(r.recipient);
      await need(api.DELETE('/houses/{house}/sets/{set}/recipients/{recipient}', where));
      return {
        said: `${r.name} gets ${set.name} no more`,
        undo: () => need(api.PUT('/houses/{house}/sets/{set}/recipients/{recipient}', where)),
      };
    });
</script>

<aside class="min-h-0 overflow-y-auto bg-base-200" aria-label="Editions and recipients">
  {#if edition.data}
    <div class="flex h-[120px]" role="img" aria-label={`Edition ${edition.data.number}`}>
      {#each edition.data.colors as c (c.name)}<span class="flex-1" style:background={c.hex} title={`${c.name} ${c.hex}`}
        ></span>{/each}
    </div>
  {/if}
  <div class="px-5 pb-8 pt-4">
    <div class="flex items-baseline justify-between gap-3">
      <h2 class="text-[21px]">{set.name}</h2>
      {#if set.editions.length > 1}
        <label class="text-small"
          >edition <select class="select ml-1 w-[70px]" value={number} onchange={(e) => (picked = Number(e.currentTarget.value))}
            >{#each set.editions as e (e.number)}<option value={e.number}>{e.number}</option>{/each}</select
          ></label
        >
      {:else if newest}<span>edition {newest}</span>{/if}
    </div>
    {#if edition.data}<p class="text-small">fixed by {edition.data.by}, {day.format(new Date(edition.data.at))}</p>{/if}
    {#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}

    {#if set.changed}
      <div class="mt-3 border border-current p-3">
        {#if newest === undefined}<p>Not fixed yet. An edition is a numbered state that never changes; it is what gets sent.</p>
        {:else}
          <p><b>Changed since edition {newest}</b></p>
          <ul class="mt-1 text-small">
            {#each (set.changes ?? []).slice(0, 8) as line (line)}<li>{line}</li>{/each}
          </ul>
        {/if}
        {#if house.keeper}<button class="btn btn-primary mt-3" disabled={busy || set.colors.length === 0} onclick={fix}
            >Fix as edition {(newest ?? 0) + 1}</button
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
      <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
      <form
        onkeydown={(e) => e.key === 'Escape' && (adding = false)}
        class="my-2 grid grid-cols-[1fr_130px] gap-2"
        onsubmit={(e) => {
          e.preventDefault();
          void add();
        }}
      >
        <input
          class="input w-full"
          placeholder="team or person"
          aria-label="Name of the recipient"
          required
          maxlength={limits.data?.nameRunes}
          {@attach opened}
          bind:value={who.name}
        />
        <select class="select w-full" aria-label="Kind of application" bind:value={who.kind}
          ><option value="office">office suite</option><option value="web">web</option></select
        >
        <input class="input w-full" placeholder="note" aria-label="Note" bind:value={who.note} />
        <button class="btn btn-primary" disabled={busy}>Add</button>
      </form>
    {/if}
    {#if set.recipients.length === 0}<p>Nobody gets editions yet.</p>{/if}
    <ul>
      {#each set.recipients as r (r.recipient)}
        <li class="rule border-b py-2">
          <label class="grid grid-cols-[26px_1fr_auto] items-start">
            {#if house.keeper && number !== undefined}
              <input class="checkbox mt-0.5" type="checkbox" bind:checked={() => ticked(r), (on) => choose([r], on)} />
            {:else}<span></span>{/if}
            <span
              ><b>{r.name}</b><span class="block text-small"
                >{r.receipt
                  ? `${day.format(new Date(r.receipt.at))}: edition ${r.receipt.edition}. ${r.receipt.message}`
                  : kinds[r.kind]}</span
              ></span
            >
            <span class="text-right text-small" class:font-bold={r.state === 'behind' || r.state === 'failed'}>{standing(r)}</span>
          </label>
          {#if house.keeper}<button
              class="ml-[26px] text-small link"
              aria-label={`take off this set: ${r.name}`}
              disabled={busy}
              onclick={() => leave(r)}>take off this set</button
            >{/if}
        </li>
      {/each}
    </ul>
    {#if house.keeper}
      <div class="mt-3">
        {#if number !== undefined}<button class="btn btn-primary" disabled={busy || to.length === 0} onclick={send}
            >{to.length > 0 ? `Send edition ${number} to ${target}` : 'Tick who gets it'}</button
          >{/if}
      </div>
      {#if to.length > 0 && edition.data}<p class="mt-2 text-small">{to.map(gets).join('; ')}</p>{/if}
    {/if}

    {#if edition.data}
      <h3>Packings of edition {edition.data.number}</h3>
      {#each edition.data.packings as p (p.name)}
        <div class="rule border-b py-2">
          <div class="flex items-baseline justify-between gap-3">
            <b>{p.label}</b>
            <a
              class="link"
              href={`/api/houses/${house.id}/sets/${set.id}/editions/${edition.data.number}/packings/${p.name}`}
              download={p.file}>download {p.file.slice(p.file.lastIndexOf('.'))}</a
            >
          </div>
          {#if p.slots.length > 0}
            <div
              class="mt-2 grid grid-cols-6"
              role="img"
              aria-label={p.slots.map((s) => `${slotName(s.slot)} ${s.name}`).join(', ')}
            >
              {#each p.slots as s (s.slot)}<span class="min-w-0 pb-1"
                  ><span class="block h-9" style:background={s.hex} title={`${s.name}: ${s.why}`}></span><span
                    class="block truncate text-small"
                    title={`${slotName(s.slot)}; the standard’s name is ${s.slot}`}>{slotName(s.slot)}</span
                  ></span
                >{/each}
            </div>
          {/if}
          {#if p.loses.length > 0}<details class="text-small">
              <summary class="cursor-pointer">leaves out {p.leaves}</summary>
              <ul>
                {#each p.loses as l (l)}<li>{l}.</li>{/each}
              </ul>
            </details>{/if}
        </div>
      {/each}
    {/if}
  </div>
</aside>

<style>
  h3 {
    margin: 20px 0 2px;
    font-size: 14px;
    font-weight: 700;
  }
</style>
