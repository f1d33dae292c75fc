<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { way } from '../../lib/back';
  import { api, download, need, upload, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';
  import Progress from '../../lib/Progress.svelte';

  const changing = useChange(['presses', 'sheet']);
  const presses = createQuery(() => ({
    queryKey: ['presses', house.id],
    queryFn: () => need(api.GET('/houses/{house}/presses', { params: { path: { house: house.id } } })),
  }));
  let label = $state('');
  let limit = $state('');
  let file = $state<FileList>();
  let chooser = $state<HTMLInputElement>();

  const add = () =>
    changing.run(async () => {
      const f = file?.[0];
      if (!f) return;
      const query = new URLSearchParams({ label });
      if (String(limit).trim()) query.set('inkLimit', String(limit));
      const list = await changing.send<Schema['Press'][]>(`/houses/${house.id}/presses?${query}`, f, f.name);
      const said = `${label} is a press now${list.find((p) => p.label === label.trim())?.gray ? ', which prints gray only' : ''}`;
      [label, limit] = ['', ''];
      if (chooser) chooser.value = '';
      file = undefined;
      return said;
    });

  // The ink book: the one that ships, or that of the house's supplier.
  const book = createQuery(() => ({
    queryKey: ['ink-book', house.id],
    queryFn: () => need(api.GET('/houses/{house}/ink-book', { params: { path: { house: house.id } } })),
  }));
  let bookName = $state('');
  let bookFile = $state<FileList>();
  let bookChooser = $state<HTMLInputElement>();
  const booking = useChange(['ink-book', 'ledger', 'sheet']);

  // What the book lacks is said first; a second press takes these approvals back with it.
  const lacking = $derived(booking.problem.includes('can be taken back with it'));
  let dropping = $state(false); // the book that ships is what lacks them
  const takenBack = (without: boolean) => (without ? '; the approvals of inks that it lacks are taken back' : '');
  // With approvals that were taken back, the book comes back with them.
  const wayBack = (house: number, back: number) => [
    way('post', '/houses/{house}/ways-back/{way}', { params: { path: { house, way: back } } }),
  ];
  const importBook = (without = false) =>
    booking.run(async () => {
      dropping = false;
      const f = bookFile?.[0];
      if (!f) return;
      const query = new URLSearchParams({ name: bookName, without: String(without) });
      const { count, back } = await booking.send<Schema['InkBook']>(`/houses/${house.id}/ink-book?${query}`, f, f.name, 'PUT');
      const undo = back ? wayBack(house.id, back) : undefined;
      const said = `${count} inks of ${bookName} are the book now${takenBack(without)}`;
      bookName = '';
      if (bookChooser) bookChooser.value = '';
      bookFile = undefined;
      return { said, undo };
    });

  const dropBook = (without = false) =>
    booking.run(async () => {
      dropping = true;
      const was = book.data!;
      const id = house.id;
      const { back } = await need(api.DELETE('/houses/{house}/ink-book', { params: { path: { house: id }, query: { without } } }));
      const again = () =>
        upload(`/houses/${id}/ink-book?${new URLSearchParams({ name: was.name })}`, new Blob([was.csv]), 'inks.csv', {
          method: 'PUT',
        });
      return { said: `The book that ships is used again${takenBack(without)}`, undo: back ? wayBack(id, back) : again };
    });

  const save = () => download(new Blob([book.data!.csv], { type: 'text/csv' }), `${book.data!.name}.csv`);

  let going = $state(''); // the press whose taking away is asked about
  const remove = (p: Schema['Press']) =>
    changing.run(async () => {
      going = '';
      const path = { house: house.id, press: p.name };
      const profile = await need(api.GET('/houses/{house}/presses/{press}', { params: { path }, parseAs: 'blob' }));
      await need(api.DELETE('/houses/{house}/presses/{press}', { params: { path } }));
      const query = new URLSearchParams({ label: p.label, inkLimit: String(p.inkLimit) });
      return {
        said: `${p.label} is taken away`,
        undo: () => upload(`/houses/${path.house}/presses?${query}`, profile as unknown as Blob, 'profile.icc'),
      };
    });
</script>

<h2 class="mb-1">Presses</h2>
<p class="max-w-[45.33rem]">
  Every color has a CMYK build for each press below. Add the profile that your printer gives you, and builds for that press come
  with every color; they are approved like the others.
</p>
<table class="mt-4 w-full max-w-[60rem] border-collapse">
  <thead class="text-left text-small"
    ><tr class="border-b border-current"><th class="py-1">Press</th><th>Total ink</th><th>Profile</th><th>Added by</th><td></td></tr
    ></thead
  >
  <tbody>
    {#each presses.data ?? [] as p (p.name)}
      <tr class="rule border-b">
        <td class="h-10 font-bold">{p.label}</td>
        <td class="font-mono">{p.inkLimit} %</td>
        <td
          >{p.profile || 'without a name'}{#if p.gray}<span class="block text-small"
              >It prints gray only: every build comes out gray, however far that is from the color.</span
            >{/if}</td
        >
        <td>{p.shipped ? 'ships with the program' : p.by}</td>
        <td class="text-right"
          >{#if house.keeper && !p.shipped}{#if going === p.name}<span class="text-small"
                >{p.approved > 0
                  ? `Builds for it are approved of ${p.approved} color${p.approved === 1 ? '' : 's'}. Take these approvals back first.`
                  : 'Colors no longer have a build for it.'}</span
              >
              {#if p.approved === 0}<button class="btn btn-primary ml-3" disabled={changing.busy} onclick={() => remove(p)}
                  >Take it away</button
                >{/if}
              <button class="link ml-3" onclick={() => (going = '')}>leave it</button>{:else}<button
                class="link"
                aria-label={`Take away ${p.label}`}
                onclick={() => (going = p.name)}>take away</button
              >{/if}{/if}</td
        >
      </tr>
    {/each}
  </tbody>
</table>
{#if house.keeper}
  <form
    class="mt-5 flex flex-wrap items-end gap-3"
    onsubmit={(e) => {
      e.preventDefault();
      void add();
    }}
  >
    <label class="grid gap-1 text-small"
      >Name of the press <input
        class="input w-[14rem]"
        required
        maxlength="60"
        placeholder="Harbor print shop"
        bind:value={label}
      /></label
    >
    <label class="grid gap-1 text-small"
      >Total ink, percent <input
        class="input w-[10rem]"
        type="number"
        min="100"
        max="400"
        placeholder="the profile’s"
        bind:value={limit}
      /></label
    >
    <button type="button" class="btn btn-plain" onclick={() => chooser?.click()}
      >{file?.[0]?.name ?? 'Choose its ICC profile'}</button
    >
    <input class="hidden" type="file" accept=".icc,.icm" aria-label="ICC profile" bind:this={chooser} bind:files={file} />
    <button class="btn btn-primary" disabled={changing.busy || booking.busy || !file?.[0] || !label.trim()}>Add the press</button>
  </form>
{/if}
{#if changing.progress}<Progress
    what={`${changing.progress.name}, ${Math.round(changing.progress.share * 100)} % sent`}
    share={changing.progress.share}
    cancel={changing.cancel}
  />{/if}
{#if changing.problem}<p role="alert" class="mt-3 max-w-[45.33rem] border-l-4 border-current pl-3">{changing.problem}</p>{/if}

<h2 class="mb-1 mt-9">Ink book</h2>
{#if book.data}
  <p class="max-w-[45.33rem]">
    <b>{book.data.name}</b>: {book.data.count} inks, {book.data.classes.join(', ')}; {book.data.own
      ? `imported by ${book.data.by}`
      : 'it ships with the program, and its inks are made up'}.
    <button class="ml-2 link" onclick={save}>download as a table</button>
    {#if house.keeper && book.data.own}<button class="ml-2 link" onclick={() => dropBook()}>go back to the one that ships</button
      >{/if}
  </p>
{/if}
{#if house.keeper}
  <form
    class="mt-3 flex flex-wrap items-end gap-3"
    onsubmit={(e) => {
      e.preventDefault();
      void importBook();
    }}
  >
    <label class="grid gap-1 text-small"
      >Name of the supplier’s book <input
        class="input w-[14rem]"
        required
        maxlength="60"
        placeholder="Harbor inks"
        bind:value={bookName}
      /></label
    >
    <button type="button" class="btn btn-plain" onclick={() => bookChooser?.click()}
      >{bookFile?.[0]?.name ?? 'Choose its table (CSV)'}</button
    >
    <input class="hidden" type="file" accept=".csv,.txt" aria-label="Ink book" bind:this={bookChooser} bind:files={bookFile} />
    <button class="btn btn-primary" disabled={changing.busy || booking.busy || !bookFile?.[0] || !bookName.trim()}
      >Import the book</button
    >
  </form>
  <p class="mt-2 max-w-[45.33rem] text-small">
    Its columns are code, name, class, and L, a and b on coated and on uncoated stock, as in the table that can be downloaded here;
    or code, name, L, a and b. Commas, semicolons or tabs part them, and decimal commas are read.
  </p>
{/if}
{#if booking.progress}<Progress
    what={`${booking.progress.name}, ${Math.round(booking.progress.share * 100)} % sent`}
    share={booking.progress.share}
    cancel={booking.cancel}
  />{/if}
{#if booking.problem}<p role="alert" class="mt-3 max-w-[45.33rem] border-l-4 border-current pl-3">
    {booking.problem}{#if lacking && (dropping || bookFile?.[0])}<button
        class="btn btn-plain ml-3"
        disabled={booking.busy}
        onclick={() => (dropping ? dropBook(true) : importBook(true))}>{dropping ? 'Go back' : 'Import'}, and take them back</button
      >{/if}
  </p>{/if}
