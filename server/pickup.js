// Copies values that are pressed, and keeps the ticks of a key-in card. The page works without it.
(() => {
  const said = document.querySelector('.said');
  const say = (text) => {
    said.textContent = text;
    said.hidden = false;
    clearTimeout(said.timer);
    said.timer = setTimeout(() => (said.hidden = true), 2500);
  };
  document.addEventListener('click', (event) => {
    const from = event.target.closest('[data-copy]');
    if (!from || !said) return;
    const value = from.dataset.copy;
    navigator.clipboard?.writeText(value).then(
      () => say(value + ' copied'),
      () => say('Not copied: the browser does not let a page do it here'),
    );
  });

  const store = document.body.dataset.store;
  if (!store) return;
  const boxes = [...document.querySelectorAll('input[name=box]')];
  const left = document.querySelector('.left');
  const again = document.querySelector('[data-clear]');
  const read = () => {
    try {
      return JSON.parse(localStorage.getItem(store) ?? '[]');
    } catch {
      return [];
    }
  };
  const show = () => {
    const open = boxes.filter((b) => !b.checked).length;
    left.textContent = open === 0 ? 'All are keyed in.' : open + ' of ' + boxes.length + ' are left.';
    again.hidden = open === boxes.length;
    try {
      localStorage.setItem(store, JSON.stringify(boxes.filter((b) => b.checked).map((b) => b.value)));
    } catch {
      // a browser that keeps nothing keeps no ticks
    }
  };
  const go = () => {
    const next = boxes.find((b) => !b.checked);
    next?.focus();
    next?.closest('li').scrollIntoView({ block: 'center' });
  };
  const ticked = new Set(read());
  boxes.forEach((b) => {
    b.checked = ticked.has(b.value);
    b.addEventListener('change', () => {
      show();
      if (b.checked) go();
    });
  });
  again.addEventListener('click', () => {
    boxes.forEach((b) => (b.checked = false));
    show();
    go();
  });
  show();
  go();
})();
