<script lang="ts">
  import { createInfiniteQuery } from '@tanstack/svelte-query';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';
  import Distance from '../../lib/Distance.svelte';
  import Value from '../../lib/Value.svelte';
  import Verdict from '../../lib/Verdict.svelte';
  import {
    fine,
    day,
    excusedSince,
    named,
    ontoTray,
    proposed,
    reportPath,
    useExcuses,
    uses,
    useWork,
    writable,
    type Found,
  } from './audit.svelte';
  import ExcuseForm from './ExcuseForm.svelte';
  import Remarks from './Remarks.svelte';

  let {
    found,
    audit,
    line,
    tolerance,
    excuse = false,
  }: { found: Found; audit: number; line: Schema['AuditLine']; tolerance: number; excuse?: boolean } = $props();

  // The first places come with the color; all of them, a page at a time, when there are more or some are looked for.
  let find = $state('');
  let asked = $state('');
  const pages = createInfiniteQuery(() => ({
    queryKey: ['places', house.id, audit, found.key, asked],
    queryFn: ({ pageParam }) =>
      need(
        api.GET('/houses/{house}/audits/{audit}/places', {
          params: { path: { house: house.id, audit }, query: { key: found.key, find: asked || undefined, from: pageParam } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next,
    enabled: found.placeCount > found.places.length || asked !== '',
    staleTime: Infinity,
  }));
  const shown = $derived(pages.data?.pages.flatMap((p) => p.places) ?? (asked ? [] : found.places));
  let timer: ReturnType<typeof setTimeout> | undefined;
  const look = () => {
    clearTimeout(timer);
    timer = setTimeout(() => (asked = find.trim()), 250);
  };

  const spoiled = $derived.by(() => {
    const how = found.reason ?? '';
    const said = `${how.charAt(0).toUpperCase()}${how.slice(1)}`;
    return found.verdict === 'drifted' && (found.nearest?.deltaE ?? 0) <= tolerance
      ? `${said}. Within the tolerance of ${tolerance.toFixed(1)}: surely meant to be ${found.nearest?.name}.`
      : `${said}.`;
  });
  const places = $derived(found.placeCount === 1 ? '1 place' : `${found.placeCount.toLocaleString('en-US')} places`);
  const times = (p: Schema['FoundPlace']) =>
    line.kind === 'picture' ? '' : `${p.count.toLocaleString('en-US')}, ${p.linked ? 'linked' : 'hard-coded'}`;
  const excuses = useExcuses(() => line.project);
  const since = $derived(excusedSince(found, line, excuses.data));
  const excusable = $derived(house.contributor && line.project !== undefined && !fine(found.verdict) && (!since || since.where));
  let excusing = $state(false);
  let place = $state<string>();
  const becomes = $derived(proposed(found));
  const changing = useChange(['tray'], { aloud: true });
  const gather = () => changing.run(() => ontoTray([found], line));

  // One place by itself is put right in the file as it was judged; the others stay.
  const work = useWork();
  const mendable = $derived(house.contributor && line.run !== undefined && becomes !== '' && found.placeCount > 1);
  const mend = (where: string) =>
    work.run(async () => {
      const path = { house: house.id, run: line.run ?? 0 };
      const body = { audit, colors: [{ from: named(found), to: becomes, where: [where] }] };
      const begun = await need(api.POST('/houses/{house}/runs/{run}/repaints', { params: { path }, body }));
      return work.lead(`repaint/${await work.done(line.file, begun)}`, `The repaint of ${line.file} is done`, 'what was repainted');
    });
</script>

<aside class="flex min-h-0 flex-col bg-base-200" aria-label="Found color">
  <div class="grid grid-cols-2 px-5 pb-2 pt-4 text-small">
    <span class="truncate"
      ><b>in the file</b> <Value text={found.spot ?? found.cmyk ?? found.wide ?? found.hex} label="found color" /></span
    >
    {#if found.nearest}<span class="truncate"
        ><b>{found.nearest.name}</b> <Value text={found.nearest.hex} label="nearest color" /></span
      >{/if}
  </div>
  <div class="grid h-[8rem] shrink-0 grid-cols-2" role="img" aria-label={`${found.hex} beside ${found.nearest?.hex ?? 'nothing'}`}>
    <span style:background={found.hex}></span><span style:background={found.nearest?.hex}></span>
  </div>
  <div class="min-h-0 flex-1 overflow-y-auto px-5 pb-6 pt-3">
    <h2 class="text-[1.27rem]">{uses(found.count, line.kind)}{line.kind === 'picture' ? '' : ` in ${places}`}</h2>
    <p class="mt-1 flex items-center gap-4">
      <Verdict verdict={found.verdict} />{#if found.nearest}<Distance value={found.nearest.deltaE} word={found.nearest.word} />{/if}
    </p>
    {#if found.reason}<p class="mt-2">{spoiled}</p>{/if}
    {#if found.excuse}<p class="mt-2">
        {found.excuse.reason} ({found.excuse.by}{found.excuse.until ? `, until ${day.format(new Date(found.excuse.until))}` : ''})
      </p>{/if}
    {#if found.nearest?.successor}<p class="mt-2">{found.nearest.name} is retired; use <b>{found.nearest.successor}</b>.</p>{/if}
    {#if line.kind === 'picture'}
      <img
        class="mt-3 max-h-[17.33rem] w-full object-contain object-left"
        src={`/api/houses/${house.id}/audits/${audit}/marked?hex=${encodeURIComponent(found.hex)}`}
        alt={`The picture in gray, ${found.hex} in color where it stands`}
      />
    {/if}
    {#if becomes}<p class="mt-2 text-small">
        {#if writable(found) === 0}It cannot be repainted: {found.places[0]?.fixed ?? 'its file cannot be written'}.
        {:else if found.fixed}Repainting turns {uses(writable(found), line.kind)} into <b>{becomes}</b>; the others cannot be
          written.
        {:else}Repainting turns it into <b>{becomes}</b>.{/if}
      </p>{/if}
    {#if house.contributor && found.verdict !== 'on-brand'}<p class="mt-2">
        <button class="link" disabled={changing.busy} onclick={gather}>put it on the tray</button>
      </p>{/if}
    {#if found.others?.length}
      <h3 class="mt-4 text-[0.93rem] font-bold">Next nearest</h3>
      <ul>
        {#each found.others as o (o.name)}
          <li class="rule flex items-center gap-3 border-b">
            <span class="grid h-9 w-[4.8rem] grid-cols-2" aria-hidden="true"
              ><span style:background={found.hex}></span><span style:background={o.hex}></span></span
            >
            <span class="flex-1 truncate">{o.name}</span><span class="text-small"><Distance value={o.deltaE} word={o.word} /></span>
          </li>
        {/each}
      </ul>
    {/if}
    {#if since}<p class="mt-2">
        Excused since, {since.where ? `at ${since.where}` : 'wholly'}: {since.reason} ({since.by}{since.until
          ? `, until ${day.format(new Date(since.until))}`
          : ''}). The next run counts it so.
      </p>{/if}
    {#if excusable}
      <div class="mt-4 border-y border-current py-3">
        <h3 class="mb-1 text-[0.93rem] font-bold">
          Excuse {found.spot ?? found.cmyk ?? found.wide ?? found.hex} instead of repainting it
        </h3>
        {#if excusing || excuse || found.verdict === 'off-brand'}<ExcuseForm
            {found}
            {line}
            {place}
            done={() => (excusing = false)}
          />
        {:else}<button class="link" onclick={() => (excusing = true)}>it is meant to differ</button>{/if}
      </div>
    {/if}
    {#if line.project !== undefined && !fine(found.verdict)}<Remarks
        project={line.project}
        path={line.path ?? line.file}
        color={found.key}
      />{/if}
    <div class="mt-4 flex items-center gap-3">
      <h3 class="text-[0.93rem] font-bold">Where</h3>
      <a class="link text-small" href={`${reportPath(audit)}/see?key=${encodeURIComponent(found.key)}`}>see it in the file</a>
      {#if found.placeCount > 5}<input
          class="input input-sm ml-auto w-[12.67rem]"
          type="search"
          placeholder="find a place"
          aria-label="Find a place"
          bind:value={find}
          oninput={look}
        />{/if}
    </div>
    {#if work.changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{work.changing.problem}</p>{/if}
    <ul>
      {#each shown as p, i (`${p.where} ${p.value} ${p.linked} ${i}`)}
        <li class="rule grid grid-cols-[1fr_auto] gap-3 border-b py-1.5 text-small">
          <span class="min-w-0 break-words"
            >{p.where}<span class="block font-mono">{p.value}</span>{#if p.fixed}<span class="block">{p.fixed}</span>{/if}</span
          >
          <span class="text-right"
            >{times(p)}{#if excusing || found.verdict === 'off-brand'}<button
                class="link block w-full text-right"
                onclick={() => (place = place === p.where ? undefined : p.where)}
                >{place === p.where ? 'all places' : 'this one'}</button
              >{/if}{#if mendable && !p.fixed && !excusing}<button
                class="link block w-full text-right"
                disabled={work.changing.busy}
                title={`This place alone becomes ${becomes}`}
                onclick={() => mend(p.where)}>repaint here only</button
              >{/if}</span
          >
        </li>
      {/each}
    </ul>
    {#if pages.hasNextPage || (!pages.data && found.placeCount > shown.length)}
      <button class="link mt-2 text-small" disabled={pages.isFetching} onclick={() => pages.fetchNextPage()}>
        show more of {asked ? 'those' : `${(found.placeCount - shown.length).toLocaleString('en-US')} places`}
      </button>
    {:else if asked && shown.length === 0 && !pages.isFetching}<p class="mt-2 text-small">No place has “{asked}” in it.</p>{/if}
  </div>
</aside>
