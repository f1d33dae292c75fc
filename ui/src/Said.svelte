<script lang="ts">
  import { message } from './lib/state.svelte';

  // What was just done, and its way back.
</script>

<div
  class="toast toast-start pointer-events-none bottom-[5.07rem] z-40 phone:inset-x-0 phone:max-w-full phone:whitespace-normal"
  role="status"
  aria-live="polite"
>
  {#if message.now}
    <p class="pointer-events-auto flex items-center gap-4 bg-[#111] px-4 py-2 text-white outline outline-1 outline-[#888]">
      {message.now.text}
      {#if message.now.next}<a class="link" href={message.now.next.href} onclick={() => message.clear()}>{message.now.next.name}</a
        >{/if}
      {#if message.now.undo}
        <button
          class="link"
          onclick={() => {
            const undo = message.now?.undo;
            message.clear();
            void undo?.();
          }}>Undo</button
        >
      {/if}
    </p>
  {/if}
</div>
