<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need } from '../../lib/api/client';
  import { house } from '../../lib/house.svelte';
  import { route } from '../../lib/router';
  import { count, percent, pictured, reportPath, uses, useWork, when } from './audit.svelte';
  import Bar from './Bar.svelte';
  import Working from './Working.svelte';

  // What repainting made: the file to download, what changed in it place by place, what is left and why.
  const id = $derived(Number(route.params.repaint));
  const made = createQuery(() => ({
    queryKey: ['repainted', house.id, id],
    queryFn: () => need(api.GET('/houses/{house}/repaints/{repaint}', { params: { path: { house: house.id, repaint: id } } })),
    staleTime: Infinity,
  }));
  let at = $state(0); // the chosen file
  let shown = $state(200);
  const r = $derived(made.data);
  const file = $derived(r?.files[at] ?? r?.files[0]);
  // The first page on which something changed.
  const first = $derived(Number(/^(?:page|slide)s? (\d+)\b/.exec(file?.changes[0]?.where ?? '')?.[1] ?? 0));
  const parts = $derived(
    r?.files.reduce((n, f) => ({ changed: n.changed + f.partsChanged, same: n.same + f.partsSame }), { changed: 0, same: 0 }),
  );

  // Within a changed part only the bytes that say a color are others; a picture is packed anew.
  const untouched = $derived.by(() => {
    if (parts && parts.same > 0) return ', all others are byte for byte as they were';
    return file?.kind && file.kind !== 'picture' ? ', all else in it is byte for byte as it was' : '';
  });

  const work = useWork();
  const take = () =>
    work.run(async () => {
      const path = { house: house.id, repaint: id };
      const begun = await need(api.POST('/houses/{house}/repaints/{repaint}/take', { params: { path } }));
      await work.done(r?.name ?? '', begun);
      return work.lead(`project/${r?.project}`, `${r?.name ?? 'What was repainted'} is in its project`, 'the project');
    });

  // Only the characters that are different are heavy.
  function pieces(before: string, after: string): [string, string, string, string] {
    let a = 0;
    while (a < before.length && a < after.length && before[a] === after[a]) a++;
    let b = 0;
    while (b < before.length - a && b < after.length - a && before[before.length - 1 - b] === after[after.length - 1 - b]) b++;
    return [
      before.slice(0, a),
      before.slice(a, before.length - b),
      after.slice(a, after.length - b),
      before.slice(before.length - b),
    ];
  }
</script>

<div class="work">
  <main class="flex min-h-0 flex-col pl-5 pt-4">
    {#if made.isError}<p class="mt-4" role="alert">{made.error.message}</p>{/if}
    {#if r && file && parts}
      <div class="flex flex-wrap items-baseline gap-x-4 gap-y-2 pr-5">
        <h1 class="max-w-full truncate">{r.dry ? 'What would change' : r.name}</h1>
        <span class="ml-auto flex flex-wrap items-center gap-x-4 gap-y-2">
          <a class="link" href={house.path(`audit/project/${r.project}`)}>project</a>
          {#if !r.dry && file.audit && file.changed > 0 && pictured(file.kind)}<a
              class="link"
              href={`${reportPath(file.audit)}/see?look=made&repaint=${id}${first ? `&page=${first}` : ''}`}
              >see it before and after</a
            >{/if}
          <a class="link" href={`/api/houses/${house.id}/repaints/${id}/paper`} download>paper to sign</a>
          {#if !r.dry && house.contributor && r.changed > 0}<button
              class="btn btn-plain"
              disabled={work.changing.busy}
              onclick={take}>Take into the project and judge</button
            >{/if}
          {#if !r.dry}<a class="btn btn-primary" href={`/api/houses/${house.id}/repaints/${id}/file`} download>Download</a>{/if}
        </span>
      </div>
      <Working {work} />
      <p class="mt-1 pr-5">
        {uses(r.changed)}
        {r.dry ? 'would become' : r.changed === 1 ? 'became a brand color' : 'became'}{r.changed === 1 && !r.dry
          ? ''
          : ' brand colors'}; {parts.changed} of {count(parts.changed + parts.same, 'part')} changed{untouched}. {r.left > 0
          ? `${uses(r.left)} could not be repainted.`
          : ''}
      </p>
      {#if r.files.length > 1}
        <label class="mt-2 flex items-center gap-3 text-small"
          >File <select class="select w-[28rem]" bind:value={at}>
            {#each r.files as f, i (f.path)}<option value={i}>{f.path}, {uses(f.changed)}</option>{/each}
          </select></label
        >
      {/if}
      <div class="mr-5 mt-2">
        <Bar name="before" score={percent(file.before.score)} totals={file.before.uses} />
        <Bar name="after" score={percent(file.after.score)} totals={file.after.uses} under />
      </div>
      <div class="mt-2 min-h-0 flex-1 overflow-y-auto pb-5 pr-5">
        {#if file.why}<p role="alert" class="border-l-4 border-current pl-3">{file.path} stays as it is: {file.why}</p>{/if}
        <ul>
          {#each file.changes.slice(0, shown) as c, i (i)}
            {@const [head, was, is, tail] = pieces(c.before, c.after)}
            <li class="rule grid grid-cols-[4.27rem_1fr_1.2fr] items-center gap-4 border-b py-1.5 text-small">
              <span class="grid h-10 grid-cols-2" aria-hidden="true"
                ><span style:background={/^#[0-9A-F]{6}$/i.test(c.from) ? c.from : 'transparent'}></span><span
                  style:background={c.hex}
                ></span></span
              >
              <span class="min-w-0 break-words"
                >{c.where}{c.count > 1 ? `, ${c.count.toLocaleString('en-US')} times` : ''}<span class="block"
                  ><b class="font-mono">{c.from}</b> → <b>{c.to}</b></span
                ></span
              >
              <span class="min-w-0 break-all font-mono"
                ><span class="block">{head}<b>{was}</b>{tail}</span><span class="block">{head}<b>{is}</b>{tail}</span></span
              >
            </li>
          {/each}
        </ul>
        {#if file.changes.length > shown}<button class="link mt-2" onclick={() => (shown += 400)}
            >show more of {(file.changes.length - shown).toLocaleString('en-US')}</button
          >{/if}
        {#if file.places > file.changes.length}<p class="mt-2 text-small">
            {(file.places - file.changes.length).toLocaleString('en-US')} more places are not listed.
          </p>{/if}
        {#if file.changes.length === 0 && !file.why}<p class="mt-2">Nothing in this file was to be changed.</p>{/if}
      </div>
    {/if}
  </main>
  <aside class="flex min-h-0 flex-col overflow-y-auto bg-base-200 p-5">
    {#if r && file}
      <h2>Left</h2>
      {#if file.left.length === 0}<p class="mt-1">Nothing that was planned is left in {file.path}.</p>{/if}
      <ul>
        {#each file.left as l, i (i)}
          <li class="rule border-b py-1.5 text-small">
            <b class="font-mono">{l.value}</b>
            {l.where}<span class="block">{l.why}</span>
          </li>
        {/each}
      </ul>
      <p class="mt-5 text-small">{when.format(new Date(r.at))}, {r.by}. The file that was judged is kept as it came.</p>
    {/if}
  </aside>
</div>
