<script lang="ts">
  import type { Schema } from '../../lib/api/client';
  import { roles, type Option, type Role } from './option';

  // An option at work. With pick, the colors below it are buttons.
  let {
    option,
    texts,
    letter,
    parts = [],
    logo = '',
    chosen,
    pick,
  }: {
    option: Option;
    texts: Schema['BoardTexts'];
    letter: string;
    parts?: Schema['BoardPart'][];
    logo?: string;
    chosen?: Role | undefined;
    pick?: (role: Role) => void;
  } = $props();

  const scale = { small: 0.8, medium: 1, large: 1.25 };
  const button = $derived(
    parts.find((p) => p.key === 'button') ?? { on: option.accents[0]?.hex ?? option.type.hex, type: option.ground.hex },
  );
  // A click on what one sees picks it; the keyboard has the rows below.
  const press = (e: MouseEvent) =>
    pick?.(((e.target as HTMLElement).closest<HTMLElement>('[data-role]')?.dataset.role ?? 'ground') as Role);
  const failing = $derived(parts.filter((p) => !p.passes));
  const names = { word: 'word', headline: 'headline', lines: 'lines', small: 'small print', button: 'button' };
</script>

<div class="flex min-w-0 flex-1 flex-col">
  <div
    class="flex-1 overflow-hidden px-4 pb-4 pt-4 face-{option.typeface}"
    style:background={option.ground.hex}
    style:color={option.type.hex}
    style:font-size={`${0.87 * scale[option.size]}rem`}
    style:font-family={option.typeface.startsWith('own-') ? `"${option.typeface}", sans-serif` : undefined}
    data-specimen
    role="presentation"
    onclick={press}
  >
    {#if option.logo && logo}<img src={logo} alt="" class="mb-2 max-h-8 max-w-[60%]" />{/if}
    <p
      data-role="type"
      class="truncate text-[4.6em] font-bold leading-none"
      style:-webkit-text-stroke={option.outline ? `0.07em ${option.outline.hex}` : undefined}
      style:paint-order="stroke fill"
    >
      {texts.word || letter}
    </p>
    {#if texts.headline}<p data-role="type" class="mt-[.4em] text-[1.6em] font-bold leading-tight">{texts.headline}</p>{/if}
    {#if texts.lines}<p data-role="type" class="mt-[.7em] whitespace-pre-line leading-snug">{texts.lines}</p>{/if}
    {#if texts.button}<p class="mt-[1em]">
        <span
          data-role={option.accents.length > 0 ? 'accent0' : 'type'}
          class="inline-block px-[1em] py-[.45em] font-bold"
          style:background={button.on}
          style:color={button.type}>{texts.button}</span
        >
      </p>{/if}
    {#if option.accents.length > 1}<p class="mt-[1em] flex h-[0.47rem]">
        {#each option.accents as a, i (i)}<span class="flex-1" data-role={`accent${i}`} style:background={a.hex}></span>{/each}
      </p>{/if}
    {#if texts.small}<p data-role="type" class="mt-[1em] whitespace-pre-line text-[max(.8em,.73rem)]">{texts.small}</p>{/if}
  </div>
  {#snippet row(r: ReturnType<typeof roles>[number])}
    <span class="w-9 shrink-0 self-stretch" style:background={r.paint.hex}></span>
    <span class="min-w-0 flex-1 truncate py-1">{r.paint.name}</span>&#32;<span class="py-1 pr-2">{r.name}</span>
  {/snippet}
  <div class="bg-base-200 text-[0.87rem]">
    {#each roles(option) as r (r.key)}
      {#if pick}
        <button
          class="flex w-full items-center gap-2 text-left"
          class:at={chosen === r.key}
          aria-pressed={chosen === r.key}
          title={r.paint.hex}
          onclick={() => pick(r.key)}>{@render row(r)}</button
        >
      {:else}<p class="flex items-center gap-2" title={r.paint.hex}>{@render row(r)}</p>{/if}
    {/each}
    {#if failing.length > 0}<p class="rule border-t px-2 py-1">
        <b>Not legible:</b>
        {failing.map((p) => `${names[p.key]} ${(Math.floor(p.ratio * 10) / 10).toFixed(1)} of ${p.need}`).join(', ')}
      </p>{/if}
  </div>
</div>

<style>
  .at {
    background: var(--color-base-content);
    color: var(--color-base-200);
    font-weight: 700;
  }
  button {
    outline-offset: -2px;
  }
</style>
