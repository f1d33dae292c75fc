<script lang="ts">
  import { way } from '../../lib/back';
  import { api, need } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house, usePairs } from '../../lib/house.svelte';
  import type { Part } from '../../lib/subject.svelte';

  // What is decided about the chosen pair becomes a rule of the library, or stops being one.
  let { type, ground, ratio }: { type: Part; ground: Part; ratio: number } = $props();

  const pairs = usePairs();
  const changing = useChange(['ledger', 'sheet']);
  const rule = $derived((pairs.data ?? []).find((p) => p.color.id === type.id && p.ground.id === ground.id));
  const path = $derived({ house: house.id, color: type.id ?? 0, ground: ground.id ?? 0 });

  type Body = { may: boolean; ratio?: number };
  const put = (to: typeof path, body: Body) =>
    need(api.PUT('/houses/{house}/colors/{color}/grounds/{ground}', { params: { path: to }, body }));
  const drop = (from: typeof path) =>
    need(api.DELETE('/houses/{house}/colors/{color}/grounds/{ground}', { params: { path: from } }));

  const write = (body?: Body) =>
    changing.run(async () => {
      const [at, was] = [path, rule];
      await (body ? put(at, body) : drop(at));
      const said = body
        ? `Rule: ${type.name} may ${body.may ? '' : 'not '}stand on ${ground.name}`
        : `No rule about ${type.name} on ${ground.name} any more`;
      const rules = '/houses/{house}/colors/{color}/grounds/{ground}';
      const undo = was
        ? way('put', rules, { params: { path: at }, body: { may: was.may, ratio: was.least || undefined } })
        : way('delete', rules, { params: { path: at } });
      return { said, undo: [undo] };
    });
  const as = (r: number) => (r === 3 ? 'as large text and signs' : 'as any text');
  const offers = $derived([4.5, 3].filter((r) => ratio >= r && !(rule?.may && rule.least === r)).slice(0, 1));
</script>

<div class="rule border-t pt-2">
  {#if rule}
    <p>
      <b>{type.name} {rule.says}.</b> By {rule.by}.
      {#if !rule.holds}<b>It no longer does: it needs {rule.least.toFixed(1)}.</b>{/if}
      {#if rule.retired}<b>{rule.retired} is retired.</b>{/if}
    </p>
  {:else}<p>{house.keeper && type.id && ground.id ? 'No rule about this pair yet.' : 'There is no rule about this pair.'}</p>{/if}
  {#if house.keeper && type.id && ground.id}
    <p class="flex flex-wrap gap-x-4 text-small">
      {#each offers as r (r)}<button class="link" disabled={changing.busy} onclick={() => write({ may: true, ratio: r })}
          >may stand {as(r)}</button
        >{/each}
      {#if !rule || rule.may}<button class="link" disabled={changing.busy} onclick={() => write({ may: false })}
          >may not stand</button
        >{/if}
      {#if rule}<button class="link" disabled={changing.busy} onclick={() => write()}>take the rule back</button>{/if}
    </p>
  {/if}
  {#if changing.problem}<p role="alert" class="border-l-4 border-current pl-3">{changing.problem}</p>{/if}
</div>
