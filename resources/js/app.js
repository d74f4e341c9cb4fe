// Keys, the clock, and nothing that the pages need in order to work.
import './busy.js';
import './chart.js';

const typing = (element) => element.closest('input:not([type=radio], [type=checkbox]), textarea, select, [contenteditable]') !== null;
// Arrows and the space bar are a choice's own.
const choosing = (event) => event.target.matches('input') && (event.key.startsWith('Arrow') || event.key === ' ');
const rows = () => [...document.querySelectorAll('[data-row]')].filter((row) => row.offsetParent !== null);

function move(step) {
  const all = rows();
  if (all.length === 0) return;
  const at = all.indexOf(document.activeElement);
  const start = all.findIndex((row) => row.closest('.chosen'));
  const next = at === -1 ? Math.max(start, 0) : Math.min(all.length - 1, Math.max(0, at + step));
  all[next].focus();
  all[next].scrollIntoView({ block: 'nearest' });
}

// A key that is pressed while the page is being drawn anew waits for it: what it would click is about to be replaced.
let drawing = false;
let waiting = null;

function go(key) {
  if (drawing) {
    waiting = key;
    return;
  }
  const wanted = document.querySelector(`[data-key="${CSS.escape(key)}"]`);
  if (wanted?.matches('input')) wanted.focus();
  else wanted?.click();
}

function drawn() {
  drawing = false;
  const key = waiting;
  waiting = null;
  if (key) go(key);
}

document.addEventListener('htmx:beforeRequest', () => (drawing = true));
for (const end of ['htmx:afterSettle', 'htmx:responseError', 'htmx:sendError', 'htmx:swapError']) document.addEventListener(end, drawn);

document.addEventListener('keydown', (event) => {
  const keys = document.querySelector('#keys');
  if (event.key === 'Escape' && typing(event.target)) {
    event.target.blur();
    return;
  }
  if (event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey || typing(event.target) || choosing(event) || keys?.open)
    return;
  if (event.key === '?') {
    event.preventDefault();
    keys?.showModal();
  } else if (event.key === '/') {
    event.preventDefault();
    document.querySelector('#search')?.focus();
  } else if (event.key === 'j' || event.key === 'ArrowDown') {
    if (rows().length > 0) event.preventDefault();
    move(1);
  } else if (event.key === 'k' || event.key === 'ArrowUp') {
    if (rows().length > 0) event.preventDefault();
    move(-1);
  } else if (event.key === ' ' && document.activeElement?.matches('[data-row]')) {
    const tick = document.activeElement.closest('tr')?.querySelector('[data-tick]');
    if (tick) {
      event.preventDefault();
      tick.click();
    }
  } else {
    const name = event.key === 'u' ? 'Backspace' : event.key;
    if (document.querySelector(`[data-key="${CSS.escape(name)}"]`)) {
      event.preventDefault();
      go(name);
    }
  }
});

document.addEventListener('click', (event) => {
  const closer = event.target.closest('[data-close]');
  if (closer) closer.closest('dialog')?.close();
  if (event.target.closest('[data-show-keys]')) {
    event.preventDefault();
    document.querySelector('#keys')?.showModal();
  }
});

// What was in hand stays in hand when the worksheet is drawn anew.
let inHand = null;
document.addEventListener('htmx:beforeSwap', () => {
  inHand = document.activeElement?.id || document.activeElement?.closest('tr')?.id || null;
});
document.addEventListener('htmx:afterSettle', (event) => {
  const wanted = event.target.querySelector?.('[data-focus]');
  const same = inHand ? document.getElementById(inHand) : null;
  (wanted ?? same?.querySelector?.('[data-row]') ?? same)?.focus?.();
});
document.querySelector('[data-focus]')?.focus();

// The chosen row of a long table, or the one that stands out, is in sight from the start.
function showChosen() {
  for (const box of document.querySelectorAll('.scroll')) {
    const row = box.querySelector('tr.chosen') ?? box.querySelector('tr.odd');
    if (row && row.offsetTop + row.offsetHeight > box.clientHeight) box.scrollTop = row.offsetTop - box.clientHeight / 2;
  }
}
showChosen();
document.addEventListener('htmx:afterSettle', showChosen);

function tick() {
  for (const clock of document.querySelectorAll('[data-clock]')) {
    clock.textContent = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', timeZone: clock.dataset.clock }).format(
      new Date(),
    );
  }
}
tick();
setInterval(tick, 10000);
