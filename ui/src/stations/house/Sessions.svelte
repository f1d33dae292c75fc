<script lang="ts">
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';

  // The sessions of somebody that are open, each with its end.
  let { account }: { account: Schema['Account'] } = $props();

  const ending = useChange(['account']);

  const end = (s: Schema['OpenSession']) =>
    ending.run(async () => {
      await need(api.DELETE('/account/sessions/{session}', { params: { path: { session: s.id } } }));
      return 'That session has ended';
    });
  const endOthers = () =>
    ending.run(async () => {
      await need(api.DELETE('/account/sessions'));
      return 'All other sessions and all access tokens have ended';
    });
  const when = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium', timeStyle: 'short' });
</script>

<h2 class="text-[1.13rem]">Where you are signed in</h2>
<ul class="mt-2">
  {#each account.sessions as s (s.id)}
    <li class="rule border-b py-2">
      <span class="flex justify-between gap-3"
        ><b>{s.agent || 'a program'}{s.here ? ', here' : ''}</b>{#if !s.here}<button
            class="link"
            disabled={ending.busy}
            onclick={() => end(s)}>end it</button
          >{/if}</span
      >
      <span class="block text-small"><span class="font-mono">{s.address}</span>, last used {when.format(new Date(s.seen))}</span>
      <span class="block text-small">since {when.format(new Date(s.begun))}</span>
    </li>
  {/each}
</ul>
{#if ending.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{ending.problem}</p>{/if}
{#if account.sessions.length > 1 || account.tokens.length > 0}
  <button class="btn btn-plain mt-3" disabled={ending.busy} onclick={endOthers}>End all others, and all access tokens</button>
{/if}
