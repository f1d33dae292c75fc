<script lang="ts">
  import { createInfiniteQuery, createQuery, keepPreviousData } from '@tanstack/svelte-query';
  import { inAddress } from '../../lib/address.svelte';
  import { api, need, type Schema } from '../../lib/api/client';
  import { followFocus } from '../../lib/focus';
  import { house } from '../../lib/house.svelte';
  import { keys } from '../../lib/keys.svelte';
  import { route } from '../../lib/router';
  import Verdict from '../../lib/Verdict.svelte';
  import Virtual from '../../lib/Virtual.svelte';
  import {
    fine,
    count,
    named,
    office,
    pagesOf,
    percent,
    pictured,
    proposed,
    reportPath,
    useAudit,
    triedPlan,
    uses,
    type Found,
  } from './audit.svelte';
  import { marksOf, type Mark } from './marks';
  import { drawable } from './webpage';
  import SeeLines from './SeeLines.svelte';
  import Slide from './Slide.svelte';

  // A judged file as one sees it, with what was found marked on it: a mark leads to its row, a row to its marks.
  const id = $derived(Number(route.params.audit));
  const audit = useAudit(() => id);
  const looks = ['before', 'after', 'planned', 'made', 'alone'] as const;
  let look = $state<(typeof looks)[number]>('before');
  let written = $state(false); // the text of a page of the web, instead of what it shows
  let large = $state(false); // as wide as there is room, instead of whole
  let tall = $state(0); // of the room for a page, in pixels
  let broad = $state(0);
  let natural = $state(1); // of a drawing: how wide it is for its height
  let key = $state(''); // of the chosen color
  let page = $state(0); // 0: the first on which the chosen color stands
  let repaint = $state(0); // whose file is looked at, of what was made
  inAddress(
    () => `${reportPath(id)}/see`,
    () => ({
      key,
      look: look === 'before' ? '' : look,
      page: page > 1 ? String(page) : '',
      repaint: repaint ? String(repaint) : '',
    }),
    (k, v) => {
      if (k === 'key') key = v;
      else if (k === 'page') page = Number(v) || 0;
      else if (k === 'repaint') repaint = Number(v) || 0;
      else look = looks.find((l) => l === v) ?? 'before';
    },
  );

  const all = $derived(audit.data?.colors ?? []);
  const wrong = (c: Found) => !fine(c.verdict);
  const findings = $derived(all.filter(wrong));
  const number = $derived(new Map(findings.map((c, i) => [c.key, i + 1])));
  const found = $derived(all.find((c) => c.key === key));

  /** Findings by what is behind them, then what is as it should be. */
  type Row = { key: string; head?: string; color?: Found };
  const rows = $derived.by(() => {
    const out: Row[] = [];
    const causes = (audit.data?.causes ?? []).filter((c) => findings.some((f) => f.cause === c.text));
    const put = (head: string, list: Found[]) => {
      if (list.length === 0) return;
      out.push({ key: `head ${head}`, head });
      for (const c of list) out.push({ key: c.key, color: c });
    };
    for (const c of causes)
      put(
        c.text.charAt(0).toUpperCase() + c.text.slice(1),
        findings.filter((f) => f.cause === c.text),
      );
    put(
      causes.length > 0 ? 'Without a known cause' : 'Findings',
      findings.filter((f) => !causes.some((c) => c.text === f.cause)),
    );
    put(
      'As it should be',
      all.filter((c) => !wrong(c)),
    );
    return out;
  });

  // The plan whose page led here; without one, planned is what is proposed.
  const plan = $derived(triedPlan(house.id, id).now.plan);
  $effect(() => {
    if ((look === 'planned' && !plan) || (look === 'made' && !repaint)) look = 'after';
  });
  const path = $derived({ house: house.id, audit: id });
  const asked = (of: { key?: string; page?: number; after?: boolean; repaint?: number }) =>
    need(api.GET('/houses/{house}/audits/{audit}/view', { params: { path, query: of } })).then(drawable);
  const view = createQuery(() => ({
    queryKey: [
      'audit',
      'view',
      house.id,
      id,
      look === 'alone' ? key : '',
      look === 'planned' ? plan : look === 'made' ? repaint : look === 'after',
      page,
    ],
    queryFn: () =>
      look === 'planned' && plan
        ? need(
            api.POST('/houses/{house}/audits/{audit}/view', { params: { path }, body: { ...plan, page: page || undefined } }),
          ).then(drawable)
        : asked({
            key: (look === 'alone' && key) || undefined,
            page: page || undefined,
            after: look === 'after' || undefined,
            repaint: look === 'made' ? repaint : undefined,
          }),
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  }));
  const shown = $derived(view.data);
  // Pages are called by their numbers; frames of an animation by theirs, of a video by their times.
  const kind = $derived(shown?.names && !/\.tiff?$/i.test(audit.data?.line.file ?? '') ? 'frame' : 'page');
  const leafs = $derived(
    shown?.names ??
      (audit.data?.line.kind === 'picture' && shown ? Array.from({ length: shown.pages }, (_, i) => String(i + 1)) : undefined),
  );
  const name = (n: number) => shown?.names?.[n - 1] ?? String(n);
  const leaf = (n: number) => (name(n).includes(':') ? `frame at ${name(n)}` : `${kind} ${name(n)}`);

  // What a page is held against: itself as it is.
  const two = $derived(look === 'after' || look === 'planned' || look === 'made');
  const plain = createQuery(() => ({
    queryKey: ['audit', 'view', house.id, id, '', false, shown?.page],
    queryFn: () => asked({ page: shown?.page }),
    enabled: two && shown?.form === 'pages',
    staleTime: Infinity,
  }));
  const held = $derived(
    two && !view.isPlaceholderData ? (shown?.before ?? (shown?.form === 'pages' ? plain.data?.picture : undefined)) : undefined,
  );
  const shape = $derived(shown?.width && shown.height ? shown.width / shown.height : natural);
  const width = $derived.by(() => {
    const whole = Math.min(broad - 8, (tall - 8) * shape);
    return `${Math.max(120, large ? broad - 8 : shown?.width ? Math.min(shown.width, whole) : whole)}px`;
  });
  const drawn = createQuery(() => ({
    // A plan may turn colors that are no finding: then there are more to be told apart.
    queryKey: ['audit', 'marks', house.id, id, (shown?.codes ?? []).map((c) => c.key)],
    queryFn: () =>
      marksOf(
        shown?.before ?? shown?.picture ?? '',
        shown?.coded ?? '',
        (shown?.codes ?? []).map((c) => ({ ...c, was: colors.get(c.key)?.hex ?? '#000000' })),
      ),
    enabled: shown?.form === 'drawing' && !!shown.coded && colors.size > 0,
    staleTime: Infinity,
  }));
  /** Whether there is room for a tag above a mark. */
  const above = (b: Mark) => (b.y * parseFloat(width)) / shape > 28;
  function loaded(e: Event) {
    const i = e.currentTarget as HTMLImageElement;
    natural = i.naturalHeight > 0 ? i.naturalWidth / i.naturalHeight : 1;
  }
  const boxes = $derived<Mark[]>(
    shown?.form === 'drawing' ? (look === 'alone' ? [] : (drawn.data?.marks ?? [])) : (shown?.boxes ?? []),
  );
  const more = $derived(shown?.form === 'drawing' ? (look === 'alone' ? 0 : (drawn.data?.more ?? 0)) : (shown?.more ?? 0));
  const here = $derived(new Set(boxes.map((b) => b.key)));
  const tagged = (b: Mark, i: number) => boxes.length <= 60 || boxes.findIndex((o) => o.key === b.key) === i;

  const inWords = $derived(found ?? findings[0]);

  /** Where a color stands of which there is no mark to be seen. */
  function elsewhere(c: Found) {
    if (here.has(c.key)) return '';
    const on = pagesOf(c, leafs);
    if (look !== 'alone' && wrong(c) && shown?.form === 'pages' && !view.isFetching && on.includes(shown.page))
      return `; on this ${kind}, without a mark`;
    return `; ${uses(c.count, audit.data?.line.kind)}${on.length > 0 ? `, ${leaf(on[0]!)}` : ''}`;
  }

  function choose(c: Found) {
    key = c.key;
    const on = pagesOf(c, leafs);
    if (shown?.form === 'pages' && on.length > 0 && !on.includes(shown.page)) page = look === 'alone' ? 0 : on[0]!;
    if (!wrong(c) && look !== 'alone') alone();
  }
  function alone() {
    look = 'alone';
    page = 0;
  }
  function back(to: 'before' | 'after' | 'planned' | 'made') {
    if (look === 'alone' && shown?.page) page = shown.page;
    look = to;
  }

  let list = $state<{ show: (index: number) => void }>();
  function pick(k: string) {
    key = k;
    list?.show(rows.findIndex((r) => r.key === k));
  }
  function step(by: number) {
    const colors = rows.filter((r) => r.color);
    const at = colors.findIndex((r) => r.key === key);
    const next = colors[Math.max(0, Math.min(colors.length - 1, at + by))];
    if (!next?.color) return;
    choose(next.color);
    list?.show(rows.indexOf(next));
    followFocus();
  }
  const turn = (by: number) => {
    const to = (shown?.page ?? 1) + by;
    if (shown && to >= 1 && to <= shown.pages) page = to;
  };
  $effect(() =>
    keys.add([
      { key: 'ArrowDown', does: 'next found color', run: () => step(1) },
      { key: 'ArrowUp', does: 'found color before', run: () => step(-1) },
      { key: 'ArrowRight', does: 'next page', run: () => turn(1) },
      { key: 'ArrowLeft', does: 'page before', run: () => turn(-1) },
    ]),
  );

  const inLines = $derived(shown?.form === 'lines' || (written && shown?.form === 'drawing'));
  const lines = createInfiniteQuery(() => ({
    queryKey: ['audit', 'lines', house.id, id, look === 'alone' ? key : ''],
    queryFn: ({ pageParam }) =>
      need(
        api.GET('/houses/{house}/audits/{audit}/lines', {
          params: { path: { house: house.id, audit: id }, query: { key: (look === 'alone' && key) || undefined, from: pageParam } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next,
    enabled: inLines,
    staleTime: Infinity,
  }));
  const text = $derived<Schema['AuditTextLine'][]>(lines.data?.pages.flatMap((p) => p.lines) ?? []);
  const colors = $derived(new Map(all.map((c) => [c.key, c])));
  const told = $derived.by(() => {
    if (shown?.others === undefined) return '';
    const stays = new Set(look === 'planned' ? plan?.colors.filter((s) => s.leave).map((s) => s.from) : []);
    const n = [...here].filter((k) =>
      look === 'planned' ? !stays.has(named(colors.get(k)!)) : proposed(colors.get(k)!) !== '',
    ).length;
    const of = shown.others.toLocaleString('en-US');
    if (look === 'made')
      return shown.moved === 0
        ? `Repainted: nothing on this page moves but found colors (0 of ${of} other pixels).`
        : `Repainted: with found colors move ${count(shown.moved ?? 0, 'pixel')} of ${of} that are of no found color.`;
    const them = n === 1 ? 'it' : 'them';
    const changes = `${count(n, 'found color')} ${n === 1 ? 'changes' : 'change'}`;
    return shown.moved === 0
      ? `After: ${changes}, nothing else on this page moves (0 of ${of} other pixels).`
      : `After: ${changes}, and with ${them} ${count(shown.moved ?? 0, 'pixel')} of ${of} that are of no found color.`;
  });
</script>

<div class="work">
  <main class="flex min-h-0 flex-col pl-5 pt-4">
    {#if audit.isError}<p class="mt-4" role="alert">{audit.error.message}</p>{/if}
    {#if view.isError}<p class="mt-4" role="alert">{view.error.message}</p>{/if}
    {#if audit.data}
      <div class="flex flex-wrap items-baseline gap-x-4 pr-5">
        <h1 class="truncate">{audit.data.line.path ?? audit.data.line.file}</h1>
        <span class="shrink-0"
          >{shown && shown.pages > 1 ? `${leaf(shown.page)}${shown.names ? '' : ` of ${shown.pages}`}, ` : ''}{percent(
            audit.data.line.score,
          )}{audit.data.line.score === undefined ? '' : ' on-brand'}</span
        >
        <a class="link ml-auto" href={reportPath(id)}>words instead</a>
      </div>
      {#if (shown?.form === 'pages' || shown?.form === 'drawing') && !inLines}
        <div class="mt-3 flex min-h-0 flex-1 gap-4 pb-4 pr-5 max-[40rem]:flex-col">
          <div
            class="min-h-0 min-w-0 flex-1 overflow-auto p-1"
            bind:clientWidth={broad}
            bind:clientHeight={tall}
            aria-busy={view.isFetching}
          >
            <div class="relative align-top" style:width style:opacity={view.isPlaceholderData ? 0.5 : 1}>
              {#if held && shown.picture}<Slide
                  before={held}
                  after={shown.picture}
                  alt={`${kind === 'frame' ? 'Frame' : 'Page'} ${name(shown.page)} of ${audit.data.line.file}`}
                  {loaded}
                />
              {:else}<img
                  class="block w-full"
                  src={shown.picture}
                  onload={loaded}
                  alt={`${kind === 'frame' ? 'Frame' : 'Page'} ${name(shown.page)} of ${audit.data.line.file}`}
                />{/if}
              {#each boxes as b, i (i)}
                {@const c = colors.get(b.key)}
                <button
                  class="mark"
                  class:chosen={b.key === key}
                  style:left={`${b.x * 100}%`}
                  style:top={`${b.y * 100}%`}
                  style:width={`${b.width * 100}%`}
                  style:height={`${b.height * 100}%`}
                  tabindex="-1"
                  aria-label={`${number.get(b.key) ?? ''} ${c?.verdict ?? ''} ${c ? named(c) : ''}`}
                  onclick={() => pick(b.key)}
                  >{#if tagged(b, i) && c}<span class="tag" class:over={above(b)} class:within={!above(b) && b.x + b.width > 0.9}
                      >{number.get(b.key) ?? ''}<Verdict verdict={c.verdict} word={false} /></span
                    >{/if}</button
                >
              {/each}
            </div>
          </div>
          <div class="w-[11.5rem] shrink-0 text-small max-[40rem]:w-full">
            {#if shown.pages > 1}
              <h2 class="text-[0.93rem]">{kind === 'frame' ? 'Frames' : 'Pages'}</h2>
              <div class="mt-1 flex max-h-[12rem] flex-wrap gap-1 overflow-y-auto">
                {#each { length: shown.pages }, i (i)}<button
                    class="leaf"
                    aria-current={shown.page === i + 1 ? 'page' : undefined}
                    aria-label={`${kind === 'frame' ? 'Frame' : 'Page'} ${name(i + 1)}`}
                    onclick={() => (page = i + 1)}>{name(i + 1)}</button
                  >{/each}
              </div>
              {#if look === 'alone' && shown.on.length > 0}<p class="mt-1">
                  It stands on {kind}{shown.on.length === 1 ? '' : 's'}
                  {shown.on.slice(0, 20).map(name).join(', ')}{shown.on.length > 20 ? ' and more' : ''}.
                </p>{/if}
            {/if}
            <h2 class="mt-3 text-[0.93rem]">Look at</h2>
            <div class="mt-1 flex flex-wrap gap-1">
              <button class="btn btn-sm" aria-pressed={look === 'before'} onclick={() => back('before')}>before</button>
              {#if pictured(audit.data.line.kind)}<button
                  class="btn btn-sm"
                  aria-pressed={look === 'after'}
                  onclick={() => back('after')}>{plan || repaint ? 'after, as proposed' : 'after'}</button
                >{/if}
              {#if plan}<button class="btn btn-sm" aria-pressed={look === 'planned'} onclick={() => back('planned')}
                  >after, as planned</button
                >{/if}
              {#if repaint}<button class="btn btn-sm" aria-pressed={look === 'made'} onclick={() => back('made')}
                  >after, as repainted</button
                >{/if}
              {#if found}<button class="btn btn-sm" aria-pressed={look === 'alone'} onclick={alone}>this one alone</button>{/if}
              <button class="btn btn-sm" aria-pressed={large} onclick={() => (large = !large)}>larger</button>
              {#if shown.form === 'drawing'}<button class="btn btn-sm" onclick={() => (written = true)}>as text</button>{/if}
            </div>
            {#if two && told}<p class="mt-2">{told}</p>{/if}
            {#if look === 'planned'}<p class="mt-2">
                <a class="link" href={`${reportPath(id)}/plan`}>back to the plan</a>
              </p>{/if}
            {#if look === 'made'}<p class="mt-2">
                <a class="link" href={house.path(`audit/repaint/${repaint}`)}>back to what was repainted</a>
              </p>{/if}
            {#if shown.why}<p class="mt-2">{shown.why}</p>{/if}
            {#if more}<p class="mt-2">
                {count(more, 'more place')} on this {kind}
                {more === 1 ? 'is' : 'are'} not marked.
              </p>{/if}
          </div>
        </div>
      {:else if inLines}
        {#if shown?.why && !written}<p class="mt-2 pr-5">{shown.why}</p>{/if}
        <div class="mt-2 flex gap-1 pr-5 text-small">
          <button class="btn btn-sm" aria-pressed={look !== 'alone'} onclick={() => (look = 'before')}>all findings</button>
          {#if found}<button class="btn btn-sm" aria-pressed={look === 'alone'} onclick={alone}>this one alone</button>{/if}
          {#if written}<button class="btn btn-sm" onclick={() => (written = false)}>as a page</button>{/if}
        </div>
        <SeeLines
          {text}
          {colors}
          chosen={key}
          {number}
          choose={pick}
          more={lines.hasNextPage ? () => void lines.fetchNextPage() : undefined}
          ready={!lines.isPending}
        />
      {:else if shown}
        <p class="mt-4 pr-5">{shown.why}</p>
        <ul class="mt-3 min-h-0 flex-1 overflow-y-auto pr-5 text-small">
          {#each inWords?.places ?? [] as p, i (i)}<li class="rule border-b py-1.5">
              {p.where} <span class="font-mono">{p.value}</span>
            </li>{/each}
          {#if inWords && inWords.placeCount > inWords.places.length}<li class="py-1.5">
              {count(inWords.placeCount - inWords.places.length, 'more place')}: the report lists all.
            </li>{/if}
        </ul>
      {:else if view.isPending}<p class="mt-4" role="status">
          {office.includes(audit.data.line.kind)
            ? 'LibreOffice makes the pages, with what was found and without it: some seconds ...'
            : 'The page is made ...'}
        </p>{/if}
    {/if}
  </main>
  <aside class="flex min-h-0 flex-col bg-base-200 pl-5 pt-4" aria-label="What was found">
    {#if audit.data}
      <h1 class="text-[1.27rem]">{count(findings.length, 'finding')}</h1>
      <Virtual
        bind:this={list}
        items={rows}
        height={(r) => (r.head ? 2.6 : 4)}
        key={(r) => r.key}
        label="Found colors"
        role="group"
      >
        {#snippet row(r)}
          {@const c = r.color}
          {#if c}
            <button class="finding" class:chosen={c.key === key} aria-pressed={c.key === key} onclick={() => choose(c)}>
              <span class="grid h-[3rem] grid-cols-2" aria-hidden="true"
                ><span style:background={c.hex}></span><span style:background={c.nearest?.hex ?? c.hex}></span></span
              >
              <span class="min-w-0">
                <span class="flex items-center gap-2"
                  >{#if number.get(c.key)}<b>{number.get(c.key)}</b>{/if}<Verdict verdict={c.verdict} />
                  <span class="truncate font-mono text-small">{named(c)}</span></span
                >
                <span class="block truncate text-small"
                  >{c.nearest ? `${c.nearest.name}, ${c.nearest.deltaE.toFixed(1)} ${c.nearest.word}` : ''}{elsewhere(c)}</span
                >
              </span>
            </button>
          {:else}<h2 class="truncate pt-3 text-[0.93rem]" title={r.head}>{r.head}</h2>{/if}
        {/snippet}
      </Virtual>
      <div class="flex items-center gap-4 border-t border-current py-3 pr-5 text-small">
        {#if house.contributor && audit.data.line.run !== undefined}<a class="btn btn-plain" href={`${reportPath(id)}/plan`}
            >Repaint plan</a
          >{/if}
        <span>A mark leads to its row, a row to its marks.</span>
      </div>
    {/if}
  </aside>
</div>

<style>
  .mark {
    position: absolute;
    outline: 2px solid #fff;
    box-shadow:
      0 0 0 4px #111,
      inset 0 0 0 0 #111;
    min-width: 4px;
    min-height: 4px;
    background: none;
    cursor: pointer;
  }
  .mark.chosen {
    outline-width: 3px;
    box-shadow:
      0 0 0 6px #111,
      0 0 0 8px #fff;
    z-index: 1;
  }
  .tag {
    position: absolute;
    left: calc(100% + 4px);
    top: -4px;
    display: flex;
    align-items: center;
    gap: 0.3rem;
    padding: 0 0.4rem;
    background: #111;
    color: #fff;
    font-weight: bold;
    font-size: 0.87rem;
    line-height: 1.5rem;
  }
  .tag.over {
    left: -4px;
    top: auto;
    bottom: calc(100% + 4px);
  }
  /* Above it is no room, and beside it none either. */
  .tag.within {
    left: 0;
    top: 0;
  }
  .leaf {
    min-width: 2rem;
    padding: 0 0.4rem;
    height: 2rem;
    border: 1px solid currentColor;
    background: var(--color-base-200);
  }
  .leaf[aria-current] {
    outline: 2px solid currentColor;
    font-weight: bold;
  }
  .finding {
    display: grid;
    grid-template-columns: 5.5rem minmax(0, 1fr);
    gap: 0.8rem;
    align-items: center;
    width: 100%;
    height: 3.6rem;
    padding-right: 1rem;
    text-align: left;
  }
  .finding.chosen {
    background: var(--color-base-100);
  }
</style>
