<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, sentence, sessionToken, type Schema } from '../../lib/api/client';
  import { house, useAudits, useRefresh } from '../../lib/house.svelte';
  import { keys } from '../../lib/keys.svelte';
  import { navigate, route } from '../../lib/router';
  import Verdict from '../../lib/Verdict.svelte';
  import Virtual from '../../lib/Virtual.svelte';
  import FoundSheet from './FoundSheet.svelte';

  const audits = useAudits();
  const refresh = useRefresh();
  const chosen = $derived(route.params.audit ? Number(route.params.audit) : undefined);
  const audit = createQuery(() => ({
    queryKey: ['audit', house.id, chosen],
    queryFn: () => need(api.GET('/houses/{house}/audits/{audit}', { params: { path: { house: house.id, audit: chosen ?? 0 } } })),
    enabled: chosen !== undefined,
    staleTime: Infinity,
  }));

  let file = $state<HTMLInputElement>();
  let problem = $state('');
  let progress = $state<{ name: string; share: number } | null>(null);
  let request: XMLHttpRequest | null = null;
  let over = $state(false);
  let hex = $state('');
  const found = $derived(audit.data?.colors.find((c) => c.hex === hex) ?? audit.data?.colors[0]);

  const largest = 100 * 1024 * 1024;
  const go = (id: number) => navigate('/h/:house/audit/:audit', { params: { house: String(house.id), audit: String(id) } });

  // XMLHttpRequest, since fetch does not tell how far an upload is.
  function upload(f: File): Promise<Schema['Audit']> {
    return new Promise((done, fail) => {
      const form = new FormData();
      form.append('file', f, f.name);
      const x = (request = new XMLHttpRequest());
      x.open('POST', `/api/houses/${house.id}/audits`);
      x.setRequestHeader('X-CSRF-Token', sessionToken());
      x.responseType = 'json';
      x.upload.onprogress = (e) => (progress = { name: f.name, share: e.total ? e.loaded / e.total : 0 });
      x.onload = () => (x.status === 201 ? done(x.response) : fail(new Error(x.response?.title ?? 'The file could not be judged.')));
      x.onerror = () => fail(new Error('The server did not take the file; try again.'));
      x.onabort = () => fail(new Error(`The upload of ${f.name} was given up.`));
      x.send(form);
    });
  }

  async function judge(list: FileList | null | undefined) {
    problem = '';
    let last: number | undefined;
    for (const f of [...(list ?? [])]) {
      if (f.size > largest) {
        problem = `${f.name} is larger than 104.9 MB, the most that is read.`;
        continue;
      }
      progress = { name: f.name, share: 0 };
      try {
        last = (await upload(f)).line.id;
      } catch (e) {
        problem = sentence(e);
      }
    }
    progress = null;
    if (file) file.value = '';
    await refresh('audits');
    if (last !== undefined) void go(last);
  }

  async function again() {
    problem = '';
    try {
      const a = await need(api.POST('/houses/{house}/audits/{audit}/again', { params: { path: { house: house.id, audit: chosen ?? 0 } } }));
      await refresh('audits');
      void go(a.line.id);
    } catch (e) {
      problem = sentence(e);
    }
  }

  function step(by: number) {
    const list = audit.data?.colors ?? [];
    const at = list.findIndex((c) => c.hex === found?.hex);
    const next = list[Math.max(0, Math.min(list.length - 1, at + by))];
    if (next) hex = next.hex;
  }

  $effect(() =>
    keys.add([
      { key: 'ArrowDown', does: 'next found color', run: () => step(1) },
      { key: 'ArrowUp', does: 'found color before', run: () => step(-1) },
      { key: 'u', does: 'upload a file to judge', run: () => file?.click() },
    ]),
  );

  const order = ['on-brand', 'drifted', 'retired', 'off-brand', 'excused'] as const;
  const totals = $derived(
    order
      .map((verdict) => ({ verdict, uses: (audit.data?.colors ?? []).filter((c) => c.verdict === verdict).reduce((n, c) => n + c.count, 0) }))
      .filter((t) => t.uses > 0),
  );
  const percent = (score: number) => `${(Math.floor(score * 1000) / 10).toFixed(1)} %`;
  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium', timeStyle: 'short' });
  const wheres = (c: Schema['FoundColor']) => {
    const more = c.places.length - 1;
    return (c.places[0]?.where ?? '') + (more > 0 ? `; ${more} more ${more === 1 ? 'place' : 'places'}` : '');
  };
</script>

<div class="grid min-h-0 grid-cols-[minmax(0,2fr)_minmax(380px,1fr)]">
  <main
    class="flex min-h-0 flex-col pl-5 pt-4"
    class:over
    ondragover={(e) => {
      if (house.contributor) {
        e.preventDefault();
        over = true;
      }
    }}
    ondragleave={() => (over = false)}
    ondrop={(e) => {
      e.preventDefault();
      over = false;
      if (house.contributor) void judge(e.dataTransfer?.files);
    }}
  >
    <div class="flex items-baseline gap-4 pr-5">
      {#if chosen !== undefined && audit.data}
        <h1 class="truncate">{audit.data.line.file}</h1>
        <span class="shrink-0">{audit.data.about}, {percent(audit.data.line.score)} on-brand</span>
      {:else}
        <h1>Audit</h1>
      {/if}
      <span class="ml-auto flex shrink-0 items-center gap-4">
        {#if chosen !== undefined}
          <a class="underline" href={house.path('audit')}>all audits</a>
          {#if house.contributor}<button class="underline" onclick={again}>judge again</button>{/if}
        {/if}
        {#if house.contributor}<button class="btn btn-primary" disabled={progress !== null} onclick={() => file?.click()}>Judge a file</button>{/if}
      </span>
      <input class="hidden" type="file" multiple accept=".pptx,.potx,.ppsx,.pptm,.svg,.css" aria-label="File to judge" bind:this={file} onchange={() => judge(file?.files)} />
    </div>
    {#if progress}
      <p class="mt-2 flex items-center gap-4 pr-5" role="status">
        <progress class="progress w-48" value={progress.share} max="1"></progress>
        {progress.share < 1 ? `${progress.name}, ${Math.round(progress.share * 100)} % sent` : `Reading ${progress.name}`}
        <button class="underline" onclick={() => request?.abort()}>cancel</button>
      </p>
    {/if}
    {#if problem}<p role="alert" class="mr-5 mt-2 border-l-4 border-current pl-3">{problem}</p>{/if}

    {#if chosen === undefined}
      <div class="min-h-0 flex-1 overflow-y-auto pr-5">
        {#if audits.data?.length === 0}
          <div class="mt-10 grid place-items-center border border-dashed border-current p-14 text-center">
            <h2>Did they use the right colors?</h2>
            <p class="mt-2 max-w-[420px]">Drop a presentation (.pptx), a drawing (.svg) or a style sheet (.css) here. Every color in it is found, counted and judged against the library.</p>
            {#if house.contributor}<button class="btn btn-primary mt-5" onclick={() => file?.click()}>Judge a file</button>{/if}
          </div>
        {:else if audits.data}
          <table class="mt-4 w-full border-collapse">
            <thead class="text-left text-small"><tr class="border-b border-current"><th class="py-1">File</th><th>Score</th><th class="text-right">Uses</th><th class="text-right">To decide</th><th class="pl-8">When, by whom</th></tr></thead>
            <tbody>
              {#each audits.data as a (a.id)}
                <tr class="rule border-b">
                  <td class="py-2.5"><a class="font-bold underline" href={house.path(`audit/${a.id}`)}>{a.file}</a></td>
                  <td class="font-mono">{percent(a.score)}</td>
                  <td class="text-right font-mono">{a.uses}</td>
                  <td class="text-right font-mono">{a.findings}</td>
                  <td class="pl-8">{day.format(new Date(a.at))}, {a.by}</td>
                </tr>
              {/each}
            </tbody>
          </table>
          {#if house.contributor}<p class="mt-5 border border-dashed border-current p-6 text-center">Drop presentations, drawings or style sheets anywhere here to judge them.</p>{/if}
        {/if}
      </div>
    {:else if audit.isError}
      <p class="mt-4" role="alert">{audit.error.message}</p>
    {:else if audit.data}
      <div class="mr-5 mt-3 flex border border-current" role="img" aria-label={totals.map((t) => `${t.uses} ${t.verdict}`).join(', ')}>
        {#each totals as t, i (t.verdict)}
          <span
            class="whitespace-nowrap px-3 py-1 text-small font-bold"
            class:border-l={i > 0}
            class:border-current={i > 0}
            class:solid={t.verdict === 'on-brand'}
            style:flex-grow={t.uses}>{t.uses} {t.verdict}</span
          >
        {/each}
      </div>
      <div class="mt-3 flex min-h-0 flex-1 flex-col" role="table" aria-label="Colors found">
        <div role="rowgroup">
          <div class="found border-b border-current pb-1 pr-5 text-small font-bold" role="row">
            <span role="columnheader">Found | nearest</span><span role="columnheader">Value, nearest</span><span role="columnheader">Verdict</span><span class="text-right" role="columnheader">Uses</span><span class="pl-6" role="columnheader">Where</span>
          </div>
        </div>
        <Virtual items={audit.data.colors} height={() => 66} key={(c) => c.hex} label="Colors">
          {#snippet row(c)}
            <!-- svelte-ignore a11y_click_events_have_key_events -->
            <div class="found mt-1.5 h-[60px] items-center pr-5" class:chosen={c.hex === found?.hex} role="row" aria-selected={c.hex === found?.hex} tabindex="-1" onclick={() => (hex = c.hex)}>
              <span class="grid h-full grid-cols-2" role="cell" aria-label={`${c.hex} beside ${c.nearest?.hex ?? 'nothing'}`}><span style:background={c.hex}></span><span style:background={c.nearest?.hex ?? 'transparent'}></span></span>
              <span class="min-w-0 pl-3" role="cell">
                <button class="value font-bold" onclick={() => (hex = c.hex)}>{c.hex}</button>
                {#if c.nearest}<span class="block truncate text-small">{c.nearest.name}, {c.nearest.deltaE.toFixed(1)} {c.nearest.word}</span>{/if}
              </span>
              <span role="cell"><Verdict verdict={c.verdict} />{#if c.nearest?.successor}<span class="block truncate text-small">use {c.nearest.successor}</span>{/if}</span>
              <span class="text-right font-mono font-bold" role="cell">{c.count}</span>
              <span class="line-clamp-2 pl-6 text-small" role="cell">{wheres(c)}</span>
            </div>
          {/snippet}
        </Virtual>
        {#each audit.data.notes as n (n)}<p class="pb-1 pr-5 pt-2 text-small">{n}</p>{/each}
      </div>
    {/if}
  </main>
  {#if chosen !== undefined && found && audit.data}
    <FoundSheet {found} tolerance={audit.data.tolerance} />
  {:else}
    <aside class="bg-base-200 p-5">
      <h2>Verdicts</h2>
      <dl class="mt-3 grid grid-cols-[120px_1fr] gap-y-3">
        <dt><Verdict verdict="on-brand" /></dt><dd>exactly a library color</dd>
        <dt><Verdict verdict="drifted" /></dt><dd>not the brand value, but so close that it was surely meant</dd>
        <dt><Verdict verdict="retired" /></dt><dd>a color that was replaced, or close to one</dd>
        <dt><Verdict verdict="off-brand" /></dt><dd>none of ours</dd>
      </dl>
    </aside>
  {/if}
</div>

<style>
  .found {
    display: grid;
    grid-template-columns: 150px 190px 118px 56px minmax(0, 1fr);
  }
  .chosen {
    background: var(--color-base-200);
  }
  .solid {
    background: var(--color-base-content);
    color: var(--color-base-100);
  }
  .over {
    outline: 3px dashed currentColor;
    outline-offset: -8px;
  }
</style>
