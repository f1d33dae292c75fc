<script lang="ts">
  import { api, need, Problem, type Schema } from '../../lib/api/client';
  import { way, type Way } from '../../lib/back';
  import { useChange } from '../../lib/change.svelte';
  import { house, useLedger } from '../../lib/house.svelte';
  import Progress from '../../lib/Progress.svelte';
  import { message } from '../../lib/state.svelte';
  import Dumped from '../house/Dumped.svelte';

  const ledger = useLedger();
  const changing = useChange([
    'ledger',
    'sets',
    'recipients',
    'gradients',
    'presses',
    'ink-book',
    'sheet',
    'tray',
    'audits',
    'boards',
  ]);
  let chooser = $state<HTMLInputElement>();
  let file = $state<File | null>(null);
  let replace = $state(false);
  let held = $state<Schema['BackupContents'] | null>(null);
  let done = $state<Schema['Restored'] | null>(null);
  let barred = $state('');
  let undo = $state.raw<Way[]>([]);
  // It may be taken back in the corner, or from the list of what was done, too.
  const restored = $derived(message.open(undo) ? done : null);
  const here = $derived(`/api/houses/${house.id}/library`);
  const colors = $derived(ledger.data?.colors.length ?? 0);

  const count = (n: number, what: string) => `${n.toLocaleString('en')} ${what}${n === 1 ? '' : 's'}`;

  // What a file holds and what it would do is said before anything is done.
  const choose = (chosen: File | null) => {
    file = chosen;
    held = done = null;
    barred = '';
    if (!chosen) return;
    const [id] = [house.id];
    void changing.run(async () => {
      try {
        held = await changing.send<Schema['BackupContents']>(`/houses/${id}/restore/look`, chosen, chosen.name);
      } catch (e) {
        file = null;
        throw e;
      } finally {
        if (chooser) chooser.value = '';
      }
    });
  };

  const restore = () =>
    changing.run(async () => {
      if (!file) return;
      const [id, name] = [house.id, file.name];
      done = await changing.send<Schema['Restored']>(`/houses/${id}/restore?replace=${replace}`, file, name);
      file = held = null;
      undo = [way('post', '/houses/{house}/ways-back/{way}', { params: { path: { house: id, way: done.back! } } })];
      return { said: `${name} is restored`, undo, back: 'The house is what it was before' };
    });

  const takeBack = (over: boolean) =>
    changing.run(async () => {
      const path = { house: house.id, way: done!.back! };
      try {
        await need(api.POST('/houses/{house}/ways-back/{way}', { params: { path, query: { over } } }));
      } catch (e) {
        if (e instanceof Problem && e.code === 'conflict') barred = e.message;
        else throw e;
        return;
      }
      message.close(undo);
      barred = '';
      return 'The house is what it was before';
    });

  const lines = (c: Schema['BackupContents']) =>
    [
      count(c.colors, 'color'),
      c.sets && count(c.sets, 'swatch set'),
      c.editions && count(c.editions, 'edition'),
      c.recipients && count(c.recipients, 'recipient'),
      c.gradients && count(c.gradients, 'gradient'),
      c.pairs && count(c.pairs, 'rule') + (c.pairs === 1 ? ' about a pair' : ' about pairs'),
      c.boards && count(c.boards, 'board'),
      c.typefaces && count(c.typefaces, 'typeface'),
      c.presses && count(c.presses, 'press').replace('presss', 'presses'),
      c.inkBook && `the ink book ${c.inkBook}`,
      c.starters && count(c.starters, 'starter palette'),
      c.excuses && count(c.excuses, 'excuse'),
      c.plans && count(c.plans, 'plan'),
    ].filter(Boolean);

  const fate = (p: Schema['ArchivedProject']) => {
    if (p.there) return ' is here already and stays as it is';
    const bare = p.bare ? `; of ${count(p.bare, 'older run')} there is no report, and they stay behind` : '';
    return `: ${count(p.files, 'file')}, ${count(p.runs, 'run')}${bare}`;
  };
  const adds = ({ fresh, present }: Schema['BackupContents']) => {
    const is = present === 1 ? 'is' : 'are';
    const out = present ? `, ${present} ${is} here with name and value and ${is} left out` : '';
    return `${count(fresh, 'color')} come${fresh === 1 ? 's' : ''} in${out}`;
  };

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

<div class="grid max-w-[78.67rem] grid-cols-[3fr_2fr] gap-12">
  <section>
    <h2>Take it along</h2>
    <p class="mt-1">
      One file holds the library: {colors} colors with their history, groups, swatch sets, editions, recipients, boards, gradients and
      presses. Keep it in a place of your own.
    </p>
    <a class="btn btn-primary mt-3" href={here} download>Download the backup</a>
    <p class="mt-2 text-small"><Dumped /></p>
    {#if house.keeper}
      <p class="mt-4">An archive has the projects too, with their files, runs and reports, the excuses and the plans.</p>
      <a class="btn btn-plain mt-2" href={`/api/houses/${house.id}/whole`} download>Download the whole house</a>
    {/if}
    <h2 class="mt-6">The current colors, for other programs</h2>
    <ul class="mt-1">
      {#each formats as [name, label, carries] (name)}<li class="grid grid-cols-[14.33rem_minmax(0,1fr)] items-baseline py-0.5">
          <span><a class="link" href={`${here}?format=${name}`} download>{label}</a></span><span class="text-small">{carries}</span>
        </li>{/each}
    </ul>
  </section>
  {#if house.keeper}
    <section>
      <h2>Bring it back</h2>
      <p class="mt-1">The file is checked to the byte; it comes in wholly or not at all. You see first what it would do.</p>
      <button class="btn btn-plain mt-3" onclick={() => chooser?.click()}
        >{file ? 'Choose another file' : 'Choose a backup or an archive'}</button
      >
      <input
        class="hidden"
        type="file"
        accept=".json,.zip"
        aria-label="Backup file"
        bind:this={chooser}
        onchange={(e) => choose(e.currentTarget.files?.[0] ?? null)}
      />
      {#if changing.progress}<Progress
          what={`${Math.round(changing.progress.share * 100)} % sent`}
          share={changing.progress.share}
          cancel={changing.cancel}
        />{/if}
      {#if changing.problem}<p role="alert" class="mt-3 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
      {#if file && held}
        <p class="mt-3">
          <b>{file.name}</b>{held.house ? ` was taken from ${held.house}. It holds` : ' holds'}
          {lines(held).join(', ')}.
        </p>
        {#if held.archive}
          <ul class="mt-1">
            {#each held.projects as p (p.name)}
              <li class="text-small">
                The project {p.name}{fate(p)}
              </li>
            {:else}<li class="text-small">No projects.</li>{/each}
          </ul>
        {/if}
        <fieldset class="mt-3 grid gap-2">
          <label class="flex items-start gap-2"
            ><input type="radio" class="mt-1" name="how" checked={!replace} onchange={() => (replace = false)} /><span
              >Add to this house: {adds(held)}{#each held.renamed.slice(0, 5) as r (r)}<br /><span class="text-small"
                  >{r.replace('came', 'comes')}</span
                >{/each}{#if held.renamed.length > 5}<br /><span class="text-small"
                  >and {held.renamed.length - 5} more under a new name</span
                >{/if}</span
            ></label
          >
          <label class="flex items-start gap-2"
            ><input type="radio" class="mt-1" name="how" checked={replace} onchange={() => (replace = true)} /><span
              >Replace this house: its {count(held.here.colors, 'color')}, {count(held.here.sets, 'swatch set')}, {count(
                held.here.editions,
                'edition',
              )} and {count(held.here.recipients, 'recipient')} go. What has the same name in the file keeps its address{held.here
                .mails
                ? held.here.lost
                  ? `; of ${count(held.here.mails, 'mail')} in the list ${held.here.lost} go with their recipients`
                  : `; the list of ${count(held.here.mails, 'mail')} stays`
                : ''}</span
            ></label
          >
        </fieldset>
        <button class="btn btn-primary mt-3" disabled={changing.busy} onclick={restore}
          >{replace ? `Replace ${house.member?.name}` : `Add to ${house.member?.name}`}</button
        >
        <p class="mt-1 text-small">It can be taken back for a day.</p>
      {/if}
      {#if restored}
        <p class="mt-3">
          <b>{count(restored.added, 'color')} came in{restored.present ? `, ${restored.present} were there already` : ''}.</b>
        </p>
        {#each restored.renamed as r (r)}<p class="text-small">{r}</p>{/each}
        {#if restored.projects !== undefined}
          <p>
            {count(restored.projects, 'project')} with {count(restored.runs ?? 0, 'run')}, {count(restored.excuses ?? 0, 'excuse')} and
            {count(restored.plans ?? 0, 'plan')} came in.
          </p>
          {#each restored.there ?? [] as name (name)}<p class="text-small">{name} was there already and stays as it is.</p>{/each}
        {/if}
        {#if barred}<p role="alert" class="mt-3 border-l-4 border-current pl-3">{barred}</p>{/if}
        <button class="btn btn-plain mt-3" disabled={changing.busy} onclick={() => takeBack(!!barred)}
          >{barred ? 'Take it back all the same' : 'Take it back'}</button
        >
      {/if}
    </section>
  {/if}
</div>
