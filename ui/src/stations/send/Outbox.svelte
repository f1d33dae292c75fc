<script lang="ts">
  import { fits } from '../../lib/fits';
  import ListFind from '../../lib/ListFind.svelte';
  import { rem } from '../../lib/rem.svelte';
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need } from '../../lib/api/client';
  import { house, useRecipients } from '../../lib/house.svelte';
  import { moment, of } from './send';
  import Ways from './Ways.svelte';

  // What was mailed, and what became of it. Where the stand-in mail server keeps it, a mail can be opened.
  const recipients = useRecipients();
  const mails = createQuery(() => ({
    queryKey: ['recipients', house.id, 'mails'],
    queryFn: () => need(api.GET('/houses/{house}/outbox', { params: { path: { house: house.id } } })),
    enabled: house.keeper,
    refetchInterval: (q) => (q.state.data?.some((m) => m.state === 'waiting') ? 2000 : false),
  }));
  let chosen = $state(0);
  const mail = createQuery(() => ({
    queryKey: ['mail', house.id, chosen],
    queryFn: () => need(api.GET('/houses/{house}/outbox/{mail}', { params: { path: { house: house.id, mail: chosen } } })),
    enabled: chosen > 0,
  }));
  let words = $state('');
  const list = $derived(
    (mails.data ?? []).filter((m) =>
      fits(words, m.subject, m.to, m.problem, recipients.data?.find((r) => r.id === m.recipient)?.name),
    ),
  );
  const states = { waiting: 'on its way', sent: 'mailed', failed: 'not mailed' };
  const parts = $derived((mail.data?.text ?? '').split(/(https?:\/\/\S+)/));
</script>

<div class="work" data-at={chosen ? 'one' : 'list'}>
  <main class="whole flex min-h-0 flex-col overflow-y-auto p-5 pt-4">
    {#if rem.phone}<h1 class="keep sr-only">Send</h1>{/if}
    <div class="flex items-baseline gap-6">
      {#if !rem.phone}<h1>Send</h1>{/if}
      <Ways at="outbox" />
    </div>
    {#if mails.data?.length === 0}
      <div class="pt-6">
        <h2>Nothing was mailed yet</h2>
        <p class="mt-2">A recipient that gets mail is told of each edition that is sent to it, with a link and the swatches.</p>
      </div>
    {/if}
    <div class="mt-2"><ListFind bind:words of={mails.data?.length ?? 0} label="Find in the mails" /></div>
    <ul class="mt-3">
      {#each list as m (m.id)}
        <li class="rule seldom border-b">
          <button
            class="grid w-full grid-cols-[1fr_1fr_12.67rem] gap-4 py-2.5 pl-3 text-left phone:grid-cols-1 phone:gap-1 phone:pl-0"
            class:bg-base-200={m.id === chosen}
            aria-pressed={m.id === chosen}
            disabled={!m.kept}
            onclick={() => (chosen = m.id)}
          >
            <span
              ><b>{recipients.data?.find((r) => r.id === m.recipient)?.name ?? 'a recipient that was removed'}</b><span
                class="block text-small">{m.to}</span
              ></span
            >
            <span
              >{m.subject}{#if m.problem}<span class="block text-small">{m.problem}</span>{/if}</span
            >
            <span class="pr-3 text-right text-small phone:text-left" class:font-bold={m.state === 'failed'}
              >{states[m.state]}{m.attempts > 1 ? `, tried ${of(m.attempts, 'time')}` : ''}<br />{moment.format(
                new Date(m.at),
              )}</span
            >
          </button>
        </li>
      {/each}
    </ul>
  </main>
  <aside class="min-h-0 overflow-y-auto bg-base-200 px-5 pb-8 pt-4" aria-label="The mail">
    {#if rem.phone}<button class="flex min-h-[2.93rem] items-center font-bold" onclick={() => (chosen = 0)}>‹ Mail</button>{/if}
    {#if chosen && mail.data}
      <h2 class="text-[1.4rem]">{mail.data.subject}</h2>
      <p class="text-small">from {mail.data.from}<br />to {mail.data.to}, {moment.format(new Date(mail.data.at))}</p>
      <img class="mt-3 w-full" src={`data:image/png;base64,${mail.data.picture}`} alt="The swatches in the mail" />
      <p class="mt-3 whitespace-pre-wrap break-words font-mono text-small">
        {#each parts as part, i (i)}{#if i % 2}<a class="link" href={part} rel="noreferrer" target="_blank">{part}</a
            >{:else}{part}{/if}{/each}
      </p>
    {:else}<p>A mail that is chosen shows here, as its reader sees it.</p>{/if}
  </aside>
</div>
