<script lang="ts">
  import { type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house, useLedger } from '../../lib/house.svelte';
  import Progress from '../../lib/Progress.svelte';

  const ledger = useLedger();
  const changing = useChange(['ledger', 'sets', 'recipients', 'gradients', 'presses', 'ink-book', 'sheet', 'tray', 'audits']);
  let chooser = $state<HTMLInputElement>();
  let file = $state<File | null>(null);
  let replace = $state(false);
  let done = $state<Schema['Restored'] | null>(null);
  const here = $derived(`/api/houses/${house.id}/library`);
  const count = $derived(ledger.data?.colors.length ?? 0);

  const restore = () =>
    changing.run(async () => {
      if (!file) return;
      done = null;
      const [id, name] = [house.id, file.name];
      const send = (data: Blob, over: boolean) =>
        changing.send<Schema['Restored']>(`/houses/${id}/restore?replace=${over}`, data, 'house');
      // What the house was is kept in the page, so that the restore can be taken back.
      const before = await (await fetch(here)).blob();
      done = await send(file, replace);
      file = null;
      if (chooser) chooser.value = '';
      const undo = async () => {
        await send(before, true);
        done = null;
        return 'The library is what it was before';
      };
      return { said: `${name} is restored`, undo };
    });

  const screenOnly = 'screen values; CMYK and inks are left out';
  const printToo = 'with one CMYK build and one ink a color';
  const formats = [
    ['tokens', 'Design tokens, .tokens.json', screenOnly],
    ['css', 'Custom properties, .css', screenOnly],
    ['scss', 'Variables, .scss', screenOnly],
    ['gpl', 'Plain text palette, .gpl', screenOnly],
    ['soc', 'Open document palette, .soc', screenOnly],
    ['cxf', 'Color exchange, .cxf', 'with one CMYK build and all inks a color'],
    ['csv', 'Table, .csv', printToo],
    ['xlsx', 'Workbook, .xlsx', printToo],
  ];
</script>

<div class="grid max-w-[1180px] grid-cols-[3fr_2fr] gap-12">
  <section>
    <h2>Take it along</h2>
    <p class="mt-1">
      One file holds the library: {count} colors with their history, groups, swatch sets, editions, recipients, boards, gradients and
      presses. Keep it in a place of your own.
    </p>
    <a class="btn btn-primary mt-3" href={here} download>Download the backup</a>
    {#if house.keeper}
      <p class="mt-4">An archive has the projects too, with their files, the excuses and the plans.</p>
      <a class="btn btn-plain mt-2" href={`/api/houses/${house.id}/whole`} download>Download the whole house</a>
    {/if}
    <h2 class="mt-6">The current colors, for other programs</h2>
    <ul class="mt-1">
      {#each formats as [name, label, carries] (name)}<li class="grid grid-cols-[215px_minmax(0,1fr)] items-baseline py-0.5">
          <span><a class="link" href={`${here}?format=${name}`} download>{label}</a></span><span class="text-small">{carries}</span>
        </li>{/each}
    </ul>
  </section>
  {#if house.keeper}
    <section>
      <h2>Bring it back</h2>
      <p class="mt-1">The file is checked to the byte; it comes in wholly or not at all.</p>
      <button class="btn btn-plain mt-3" onclick={() => chooser?.click()}
        >{file ? file.name : 'Choose a backup or an archive'}</button
      >
      <input
        class="hidden"
        type="file"
        accept=".json,.zip"
        aria-label="Backup file"
        bind:this={chooser}
        onchange={(e) => {
          file = e.currentTarget.files?.[0] ?? null;
          changing.problem = '';
          done = null;
        }}
      />
      {#if file}
        <fieldset class="mt-3 grid gap-2">
          <label class="flex gap-2"
            ><input type="radio" class="mt-1" name="how" checked={!replace} onchange={() => (replace = false)} /> Add to this house; what
            is there with name and value is left out</label
          >
          <label class="flex gap-2"
            ><input type="radio" class="mt-1" name="how" checked={replace} onchange={() => (replace = true)} /> Replace this house:
            its
            {count} colors, sets, editions and recipients go</label
          >
        </fieldset>
        <button class="btn btn-primary mt-3" disabled={changing.busy} onclick={restore}
          >{replace ? `Replace ${house.member?.name}` : `Add to ${house.member?.name}`}</button
        >
      {/if}
      {#if changing.progress}<Progress
          what={`${Math.round(changing.progress.share * 100)} % sent`}
          share={changing.progress.share}
          cancel={changing.cancel}
        />{/if}
      {#if changing.problem}<p role="alert" class="mt-3 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
      {#if done}
        <p class="mt-3"><b>{done.added} colors came in{done.present ? `, ${done.present} were there already` : ''}.</b></p>
        {#each done.renamed as r (r)}<p class="text-small">{r}</p>{/each}
        {#if done.projects !== undefined}
          <p>
            {done.projects} projects, {done.excuses} excuses and {done.plans} plans came in{done.projects
              ? '; the projects are judged anew'
              : ''}.
          </p>
          {#each done.there ?? [] as name (name)}<p class="text-small">{name} was there already and stays as it is.</p>{/each}
        {/if}
      {/if}
    </section>
  {/if}
</div>
