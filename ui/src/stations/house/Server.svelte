<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from '../../lib/api/client';
  import { fits } from '../../lib/fits';
  import ListFind from '../../lib/ListFind.svelte';
  import { bytes } from '../../lib/notations';

  // How the server is, for whoever runs it: how much there is in all houses and how it goes; nothing of what is in them.
  const server = createQuery(() => ({
    queryKey: ['server'],
    queryFn: () => need(api.GET('/server')),
    refetchInterval: 15_000,
  }));
  const doctor = createQuery(() => ({ queryKey: ['server', 'doctor'], queryFn: () => need(api.GET('/server/doctor')) }));
  let words = $state('');

  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
  const moment = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium', timeStyle: 'short' });
  const at = (text: string) => moment.format(new Date(text));
  const count = (n: number, one: string, many = `${one}s`) => `${n.toLocaleString('en')} ${n === 1 ? one : many}`;
  const lasting = (seconds: number) =>
    seconds < 1
      ? 'under a second'
      : seconds < 90
        ? count(seconds, 'second')
        : seconds < 5400
          ? count(Math.round(seconds / 60), 'minute')
          : `${(seconds / 3600).toFixed(1)} hours`;

  const versions = (list: Schema['ServerInstance'][]) => new Set(list.filter((i) => i.here).map((i) => i.version)).size;
  const work = (j: Schema['ServerState']['jobs']) =>
    [
      `${j.running.toLocaleString('en')} under way, ${j.waiting.toLocaleString('en')} waiting`,
      j.oldestWait > 60 && `one has waited for ${lasting(j.oldestWait)}`,
      j.failed > 0 && `${j.failed.toLocaleString('en')} failed in the last week`,
      j.stalled > 0 && `${j.stalled.toLocaleString('en')} did not move and were ended`,
    ].filter(Boolean);
  const mail = (m: Schema['ServerState']['mails']) =>
    m.on
      ? [
          m.waiting > 0 ? `${count(m.waiting, 'mail')} to recipients ${m.waiting === 1 ? 'waits' : 'wait'}` : 'no mail waits',
          m.oldest && `the oldest since ${at(m.oldest)}`,
          m.failed > 0 && `${m.failed.toLocaleString('en')} of the last week failed`,
        ].filter(Boolean)
      : ['no mail server is set, so nothing is mailed'];
  // What there is something to do about stands first.
  const rank = (p: Schema['ServerPart']) => (p.do ? (p.must ? 0 : 1) : 2);
  const parts = $derived([...(doctor.data?.parts ?? [])].sort((a, b) => rank(a) - rank(b)));
  const ill = $derived(doctor.data?.parts.filter((p) => p.do && p.must).length ?? 0);
  const notes = $derived(doctor.data?.parts.filter((p) => p.do && !p.must).length ?? 0);
</script>

<div class="work">
  <main class="min-h-0 overflow-y-auto p-5 pt-4">
    <h1>This server</h1>
    {#if server.isError}<p class="mt-3 border-l-4 border-current pl-3" role="alert">{server.error.message}</p>{/if}
    {#if server.data}
      {@const s = server.data}
      <dl class="mt-3 grid grid-cols-[8.67rem_minmax(0,1fr)] gap-x-4 phone:grid-cols-[6.4rem_minmax(0,1fr)] gap-y-1.5">
        <dt class="font-bold">People</dt>
        <dd>
          {count(s.people.accounts, 'account')}, {s.people.bare.toLocaleString('en')} of them with a password alone;
          {count(s.people.sessions, 'session')} open, {count(s.people.tokens, 'access token')}
        </dd>
        <dt class="font-bold">Work</dt>
        <dd>{work(s.jobs).join('; ')}</dd>
        <dt class="font-bold">Mail</dt>
        <dd>{mail(s.mails).join('; ')}</dd>
        <dt class="font-bold">Nightly dumps</dt>
        <dd>
          {#if !s.dumps.on}None is made: <code>HUEKEEP_DUMPS</code> names no place for them.
          {:else}The next is made {s.dumps.next ? at(s.dumps.next) : ''}; {s.dumps.kept} are kept.{/if}
        </dd>
      </dl>

      <h2 class="mt-6">{count(s.houses.length, 'house')}</h2>
      <div class="mt-2"><ListFind bind:words of={s.houses.length} label="Find in the houses" /></div>
      <table class="mt-2 w-full">
        <thead>
          <tr class="border-b border-current text-left text-small">
            <th class="pb-1">House</th><th class="pb-1 pl-3 text-right">People</th><th class="pb-1 pl-3 text-right">Colors</th><th
              class="pb-1 pl-3 text-right phone:hidden">Projects</th
            ><th class="pb-1 pl-3 text-right">Files</th><th class="pb-1 pl-3 text-right phone:hidden">Last on the trail</th>
          </tr>
        </thead>
        <tbody>
          {#each s.houses.filter((h) => fits(words, h.name)) as h (h.id)}
            <tr class="rule border-b align-baseline">
              <td class="py-1.5 pr-4 break-words"
                ><b>{h.name}</b>{#if h.endsAt}<span class="block text-small"
                    >given up; deleted on {day.format(new Date(h.endsAt))}</span
                  >{/if}</td
              >
              <td class="py-1.5 pl-3 text-right tabular-nums">{h.people.toLocaleString('en')}</td>
              <td class="py-1.5 pl-3 text-right tabular-nums">{h.colors.toLocaleString('en')}</td>
              <td class="py-1.5 pl-3 text-right tabular-nums phone:hidden">{h.projects.toLocaleString('en')}</td>
              <td class="py-1.5 pl-3 text-right whitespace-nowrap tabular-nums"
                >{bytes(h.stored)}{s.room ? ` of ${bytes(s.room)}` : ''}</td
              >
              <td class="py-1.5 pl-4 text-right phone:hidden">{h.last ? day.format(new Date(h.last)) : 'nothing yet'}</td>
            </tr>
          {/each}
        </tbody>
      </table>

      {#if s.dumps.nights.length > 0}
        <h2 class="mt-6">Dumps of the last nights</h2>
        <ul class="mt-1">
          {#each s.dumps.nights as n (n.name)}
            <li class="rule grid grid-cols-[11.33rem_minmax(0,1fr)] gap-x-4 border-b py-1.5 phone:grid-cols-1">
              <span>{at(n.at)}</span>
              {#if n.problem}
                <span><b>There is none.</b> {n.problem}</span>
              {:else}
                <span
                  >{bytes(n.size)}, {count(n.rows, 'row')} and {count(n.files, 'file')}, opened and counted{n.missing
                    ? `; ${count(n.missing, 'file')} ${n.missing === 1 ? 'was' : 'were'} named and not there`
                    : ''}<span class="block text-small break-all"
                    >{n.name}, {lasting(n.seconds)}{#if n.restoredAt && n.restored}; <b
                        >could not be restored on {day.format(new Date(n.restoredAt))}: {n.restored}</b
                      >{:else if n.restoredAt}; restored into a scratch database on {day.format(new Date(n.restoredAt))}{/if}</span
                  ></span
                >
              {/if}
            </li>
          {/each}
        </ul>
      {/if}

      <h2 class="mt-6">{count(s.instances.length, 'instance')}</h2>
      {#if versions(s.instances) > 1}<p class="mt-1 border-l-4 border-current pl-3">
          They are of {versions(s.instances)} versions; bring all to one.
        </p>{/if}
      <ul class="mt-1">
        {#each s.instances as i, n (n)}
          <li class="rule grid grid-cols-[11.33rem_minmax(0,1fr)] gap-x-4 border-b py-1.5 phone:grid-cols-1">
            <span class="break-all">{i.host}</span>
            <span>{i.version}, {i.here ? `since ${at(i.since)}` : `has said nothing for ${lasting(i.silent)}`}</span>
          </li>
        {/each}
      </ul>
    {/if}
  </main>
  <aside class="overflow-y-auto bg-base-200 p-5" aria-label="What the doctor says">
    <h2 class="text-[1.13rem]">What the doctor says</h2>
    {#if doctor.isError}<p class="mt-3 border-l-4 border-current pl-3" role="alert">{doctor.error.message}</p>{/if}
    {#if doctor.isPending}<p class="mt-2">Looking at settings, database, files and mail…</p>{/if}
    {#if doctor.data}
      <p class="mt-1 text-small">
        {ill > 0 ? `${count(ill, 'part is', 'parts are')} ill` : 'Nothing is ill'}{notes > 0 ? `, ${count(notes, 'note')}` : ''};
        looked at
        {at(doctor.data.at)}. <button class="link" disabled={doctor.isFetching} onclick={() => doctor.refetch()}>look again</button>
      </p>
      <ul class="mt-2">
        {#each parts as p, n (n)}
          <li class="border-b border-current/30 py-2">
            <span class="flex items-baseline justify-between gap-4"
              ><b class="capitalize">{p.part}</b><span class="text-small" class:font-bold={p.do && p.must}
                >{p.do ? (p.must ? 'ill' : 'note') : 'well'}</span
              ></span
            >
            <span class="block break-words">{p.says}</span>
            {#if p.do}<span class="block border-l-4 border-current pl-2 text-small break-words">{p.do}</span>{/if}
          </li>
        {/each}
      </ul>
      <p class="mt-3 text-small">
        On the server, <code>huekeep doctor --restore</code> also restores the newest dump into a scratch database and compares.
      </p>
    {/if}
  </aside>
</div>
