<script lang="ts">
  import { house, useRecipients } from '../../lib/house.svelte';
  import { navigate, route } from '../../lib/router';
  import RecipientForm from './RecipientForm.svelte';
  import RecipientSheet from './RecipientSheet.svelte';
  import { day, kinds, of, outcome, remindable, urgent } from './send';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { fits } from '../../lib/fits';
  import ListFind from '../../lib/ListFind.svelte';
  import { rem } from '../../lib/rem.svelte';
  import Ways from './Ways.svelte';

  // Everybody who gets editions: what each holds, what is current, how far behind, since when. Those farthest behind come first.
  const recipients = useRecipients();
  let words = $state('');
  const list = $derived(
    (recipients.data ?? []).filter((r) =>
      fits(words, r.name, kinds[r.kind], r.note, r.email, worst(r), ...r.holdings.map((h) => h.setName)),
    ),
  );
  // Rows come as one scrolls to them: five hundred at once would keep the page from answering for half a second.
  const some = 60;
  let rows = $state(some);
  function more(end: HTMLElement) {
    const near = new IntersectionObserver(
      (seen) => {
        if (seen.some((s) => s.isIntersecting)) rows += some;
      },
      { rootMargin: '600px' },
    );
    near.observe(end);
    return () => near.disconnect();
  }
  let adding = $state(false);
  const chosen = $derived(Number(route.params.recipient ?? 0));
  const one = $derived(recipients.data?.find((r) => r.id === chosen));
  const go = (id: number) =>
    navigate('/h/:house/send/recipients/:recipient', {
      params: { house: String(house.id), recipient: String(id) },
      replace: !rem.phone,
      scrollToTop: false,
    });
  $effect(() => {
    const first = recipients.data?.[0];
    if (!chosen && first && !adding && !rem.phone) void go(first.id);
  });
  const late = $derived((recipients.data ?? []).filter((r) => !r.paused && r.holdings.some(urgent)));
  const quiet = $derived((recipients.data ?? []).filter((r) => !r.paused && !late.includes(r) && r.holdings.some(remindable)));
  const changing = useChange(['sets', 'recipients', 'sheet']);
  const send = (to: Schema['Recipient'][], remind: boolean) =>
    changing.run(async () => {
      const ids = to.map((r) => r.id);
      const due = to.flatMap((r) => r.holdings.filter(remind ? remindable : urgent).map((h) => h.set));
      const body = { sets: [...new Set(due)], recipients: ids, remind };
      const sent = await need(api.POST('/houses/{house}/send', { params: { path: { house: house.id } }, body }));
      return remind ? `A reminder goes to ${of(sent.recipients, 'recipient')}` : outcome(sent.sets, ids);
    });
  const behind = $derived((recipients.data ?? []).filter((r) => !r.paused && r.holdings.some(urgent)).length);
  const open = $derived((recipients.data ?? []).filter((r) => r.holdings.some((h) => h.state === 'waiting')).length);

  function short(h: Schema['Holding']) {
    switch (h.state) {
      case 'never':
        return h.current ? 'none yet' : 'not fixed';
      case 'waiting':
        return `${h.edition ?? 'none'}, sent ${h.sent}`;
      case 'unconfirmed':
        return `sent ${h.sent} of ${h.current}`;
      case 'failed':
        return `${h.edition ?? 'none'} of ${h.current}, not taken`;
      default:
        return h.edition === h.current ? `${h.edition}` : `${h.edition ?? 'none'} of ${h.current}`;
    }
  }
  function worst(r: Schema['Recipient']) {
    if (r.paused) return `paused since ${day.format(new Date(r.paused))}`;
    const h = [...r.holdings].sort((a, b) => b.steps - a.steps)[0];
    if (r.holdings.some((x) => x.state === 'failed')) return 'did not take the last sending';
    if (h && h.steps > 0 && h.since) return `${of(h.steps, 'edition')} behind, since ${day.format(new Date(h.since))}`;
    if (r.holdings.some((x) => x.state === 'waiting')) return 'yet to confirm';
    if (r.holdings.some((x) => x.state === 'never' && x.current)) return 'holds no edition of a set';
    return r.holdings.length === 0 ? 'gets no set' : 'current';
  }
</script>

<div class="work" data-at={chosen ? 'one' : 'list'}>
  <main class="whole flex min-h-0 flex-col overflow-y-auto p-5 pt-4 phone:px-4">
    {#if rem.phone}<h1 class="keep sr-only">Send</h1>{/if}
    <div class="flex flex-wrap items-baseline gap-x-6 gap-y-2">
      {#if !rem.phone}<h1>Send</h1>{/if}
      <Ways at="recipients" />
      {#if house.keeper}<button class="btn btn-plain ml-auto" aria-expanded={adding} onclick={() => (adding = !adding)}
          >New recipient</button
        >{/if}
    </div>
    {#if adding}<div class="max-w-[42.67rem]">
        <RecipientForm
          done={(id) => {
            adding = false;
            if (id) void go(id);
          }}
        />
      </div>{/if}
    {#if recipients.data?.length === 0}
      <div class="pt-6">
        <h2>No recipient yet</h2>
        <p class="mt-2">A recipient is a team or a person that gets editions of your sets: an office, a film crew, a printer.</p>
      </div>
    {:else}
      <p class="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        {behind === 0 ? 'Nobody is behind.' : `${behind === 1 ? '1 recipient is' : `${behind} recipients are`} behind.`}
        {open === 0 ? '' : `${open === 1 ? '1 has' : `${open} have`} yet to confirm.`}
        {#if house.keeper && late.length > 0}<button
            class="btn btn-primary"
            disabled={changing.busy}
            onclick={() => send(late, false)}
            >Send to {late.length === 1 ? late[0]?.name : `the ${late.length} who are behind`}</button
          >{/if}
        {#if house.keeper && quiet.length > 0}<button
            class="btn btn-plain"
            disabled={changing.busy}
            onclick={() => send(quiet, true)}
            >Remind {quiet.length === 1 ? quiet[0]?.name : `the ${quiet.length} who have yet to confirm`}</button
          >{/if}
      </p>
      {#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
    {/if}
    <div class="mt-2"><ListFind bind:words of={recipients.data?.length ?? 0} label="Find in the recipients" /></div>
    <ul class="mt-2">
      {#each list.slice(0, rows) as r (r.id)}
        <li class="rule seldom border-b">
          <a
            class="grid grid-cols-[minmax(10rem,1fr)_2fr_16rem] items-start gap-4 py-2.5 pl-3 phone:grid-cols-1 phone:gap-1 phone:pl-0"
            class:bg-base-200={r.id === chosen}
            href={house.path(`send/recipients/${r.id}`)}
            aria-current={r.id === chosen ? 'true' : undefined}
            data-replace={rem.phone ? undefined : ''}
            data-scroll-to-top="false"
          >
            <span><b>{r.name}</b><span class="block text-small">{kinds[r.kind]}</span></span>
            <span class="flex flex-wrap gap-x-5 gap-y-1">
              {#each r.holdings as h (h.set)}<span class:font-bold={urgent(h)}
                  ><span class="block text-small font-normal">{h.setName}</span>
                  <span class="my-0.5 block h-[1.47rem] w-[8.8rem]" aria-hidden="true">
                    {#each [h.held ?? [], h.state === 'current' ? [] : (h.now ?? [])] as strip, i (i)}
                      {#if strip.length > 0}<span class="flex" style:height={h.state === 'current' ? '22px' : '11px'}
                          >{#each strip as hex, k (k)}<span class="flex-1" style:background={hex}></span>{/each}</span
                        >{:else if i === 0}<span class="block h-[0.73rem]"></span>{/if}
                    {/each}
                  </span>{short(h)}</span
                >{:else}<span class="text-small">gets no set</span>{/each}
            </span>
            <span class="pr-3 text-right text-small phone:text-left" class:font-bold={!r.paused && r.holdings.some(urgent)}
              >{worst(r)}</span
            >
          </a>
        </li>
      {/each}
    </ul>
    {#key rows}{#if rows < list.length}<p {@attach more}>{list.length - rows} more below</p>{/if}{/key}
    {#if words && list.length === 0}<p class="mt-2">No recipient fits “{words}”.</p>{/if}
  </main>
  {#if one}{#key one.id}<RecipientSheet recipient={one} />{/key}{:else}<aside class="bg-base-200 p-5">
      <p>What a recipient takes, its address and its receipts show here.</p>
    </aside>{/if}
</div>
