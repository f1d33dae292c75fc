<script lang="ts">
  import type { Attachment } from 'svelte/attachments';
  import { session } from './lib/state.svelte';
  import SignIn from './SignIn.svelte';

  // The session ended while the page was open: one signs in over the page, which stays as it is, and what was asked for is done then.
  const shown: Attachment<HTMLDialogElement> = (dialog) => {
    const before = document.activeElement as HTMLElement | null;
    dialog.showModal();
    return () => {
      dialog.close();
      before?.focus();
    };
  };
</script>

<svelte:window onfocus={session.look} />
<dialog
  class="m-auto bg-transparent p-0"
  aria-label="Sign in again"
  oncancel={(e) => e.preventDefault()}
  onkeydown={(e) => e.stopPropagation()}
  {@attach shown}
>
  <SignIn again={session.now?.email} />
</dialog>
