<script lang="ts">
  import { api, need } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';
  import { navigate } from '../../lib/router';
  import { session } from '../../lib/state.svelte';

  // What to do first in a house that has no color yet.
  const making = useChange([]);
  const stations = [
    { name: 'Gather', says: 'takes colors in, from whatever you were sent.' },
    { name: 'Library', says: 'says what exactly each color is: on screens, on paper, as an ink, and where it may stand.' },
    { name: 'Proof', says: 'shows whether they work, before anything is made of them.' },
    { name: 'Send', says: 'gives them to every program and everybody in a form of their own, and knows who has which.' },
    { name: 'Audit', says: 'finds them in finished files, and puts right what is not yours.' },
  ];
  const steps = [
    {
      name: 'Paste what you were sent',
      says: 'A mail, a list, a table: every value in it is understood, in any notation.',
      href: 'gather',
      does: 'Paste colors',
    },
    {
      name: 'Take them from a logo or a picture',
      says: 'Drop it, and point at the colors that are meant.',
      href: 'gather/picture',
      does: 'Open a picture',
    },
    {
      name: 'Read a file of swatches',
      says: 'Palettes, themes, style sheets, tokens, documents and drawings.',
      href: 'gather/file',
      does: 'Open a file',
    },
  ];
  const example = () =>
    making.run(async () => {
      const taken = (session.now?.houses ?? []).map((h) => h.name);
      let name = 'An example';
      for (let n = 2; taken.includes(name); n++) name = `An example ${n}`;
      const made = await need(api.POST('/houses', { body: { name: `${name} for ${session.now?.name}`, example: true } }));
      await session.load();
      void navigate('/h/:house/library', { params: { house: String(made.id) } });
      return 'An example to look at. Give it up in its settings when you have seen enough';
    });
</script>

<div class="max-w-[42.67rem] pt-8">
  <h2 class="text-[1.13rem]">This library is empty</h2>
  <ul class="mt-3 grid gap-1">
    {#each stations as s (s.name)}<li><b>{s.name}</b> {s.says}</li>{/each}
  </ul>
  {#if house.contributor}
    <ol class="mt-3">
      {#each steps as s, i (s.href)}
        <li class="rule flex flex-wrap items-center gap-x-6 gap-y-2 border-b py-3">
          <span class="min-w-[16rem] flex-1"><b>{s.name}</b><span class="block text-small">{s.says}</span></span>
          <a class="btn {i === 0 ? 'btn-primary' : 'btn-plain'}" href={house.path(s.href)}>{s.does}</a>
        </li>
      {/each}
    </ol>
    <p class="mt-3">
      The <a class="link" href={house.path('guide')}>guide</a> has the tasks of a week, with pictures of a house that is filled.
    </p>
    <p class="mt-3">What you gather lies on the tray, below; from there it is admitted to the library.</p>
    {#if house.keeper}
      <p class="mt-4">
        <button class="link" disabled={making.busy} onclick={example}>Look at a house that is filled, beside this one</button>
      </p>
      {#if making.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{making.problem}</p>{/if}
    {/if}
  {:else}
    <p class="mt-2">Its keepers have put nothing into it yet.</p>
  {/if}
</div>
