import { api, need, sentence } from './api/client';
import { message, session } from './state.svelte';

/** Opens a house again that was given up. */
export async function takeBack(h: { id: number; name: string }) {
  try {
    await need(api.POST('/taken-back/{id}', { params: { path: { id: h.id } } }));
    await session.load();
    message.say(`${h.name} is open again`, undefined, { name: 'Go there', href: `/h/${h.id}/library` });
  } catch (e) {
    message.say(sentence(e));
  }
}
