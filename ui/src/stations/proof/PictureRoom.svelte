<script lang="ts">
  import type { Snippet } from 'svelte';
  import { files } from '../../lib/drag';
  import { picture } from './picture.svelte';

  // The room in which a picture is looked at: it is opened or dropped here, and says how large it may be shown.
  let {
    head,
    asks,
    problem = '',
    scale = $bindable(1),
    children,
  }: { head: Snippet<[string, Snippet?]>; asks: string; problem?: string; scale?: number; children: Snippet } = $props();

  let chooser = $state<HTMLInputElement>();
  let wide = $state(800);
  let tall = $state(520);
  $effect(() => {
    const o = picture.opened;
    scale = o ? Math.min(wide / o.width, (tall - 60) / o.height, 4) : 1;
  });
  function take(list: FileList | null) {
    void picture.take(list?.[0]);
    if (chooser) chooser.value = '';
  }
</script>

{#snippet opener()}
  <button class="btn btn-plain" onclick={() => chooser?.click()}>Open a picture</button>
{/snippet}

<main
  class="flex min-h-0 flex-col"
  {@attach files(
    (list) => take(list),
    () => true,
  )}
>
  {@render head(picture.opened ? `${picture.file?.name}, ${picture.opened.width} x ${picture.opened.height}` : '', opener)}
  <input
    class="hidden"
    type="file"
    accept="image/*"
    aria-label="Picture to proof"
    bind:this={chooser}
    onchange={(e) => take(e.currentTarget.files)}
  />
  {#if picture.problem || problem}<p role="alert" class="mx-5 mb-3 border-l-4 border-current pl-3">
      {picture.problem || problem}
    </p>{/if}
  {#if !picture.opened && !picture.busy}
    <div class="mx-5 flex h-[14.67rem] flex-col items-center justify-center border border-dashed border-current text-center">
      <b>{asks}</b>
      <p class="max-w-[28rem] pt-2">Drop a picture here: PNG, JPEG, TIFF or WebP, in RGB or CMYK. It stays on this computer.</p>
    </div>
  {:else}
    <div class="mx-5 mb-4 min-h-0 flex-1" bind:clientWidth={wide} bind:clientHeight={tall}>
      {#if picture.opened}{@render children()}
      {:else}
        <p class="pb-1 text-small">Decoding the picture</p>
        <!-- At once, as the browser shows it. -->
        <img
          src={picture.url}
          alt=""
          class="max-h-[calc(100%-40px)] max-w-full"
          onerror={(e) => ((e.currentTarget as HTMLElement).hidden = true)}
        />
      {/if}
    </div>
  {/if}
</main>
