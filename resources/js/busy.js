// Whatever takes over 300 ms shows that it is at work: what htmx asks for, and plain forms. What a page asks for by itself does not.
const AFTER_MS = 300;
const ONCE_IN_MS = 10000;
const bar = document.querySelector('#progress');
let timer = null;
let asked = 0;

const byItself = (event) => event.target.closest('[hx-trigger]')?.getAttribute('hx-trigger').startsWith('every') ?? false;

function begin() {
  timer ??= setTimeout(() => {
    if (bar) bar.hidden = false;
  }, AFTER_MS);
}

function end() {
  clearTimeout(timer);
  timer = null;
  asked = 0;
  if (bar) bar.hidden = true;
  for (const form of document.querySelectorAll('form[aria-busy]')) form.removeAttribute('aria-busy');
}

document.addEventListener('htmx:beforeRequest', (event) => {
  if (byItself(event)) return;
  asked++;
  begin();
});
document.addEventListener('htmx:afterRequest', (event) => {
  if (!byItself(event) && --asked <= 0) end();
});
// A form that htmx does not take: it is sent once, however often it is clicked.
document.addEventListener('submit', (event) => {
  const form = event.target;
  if (form.getAttribute('aria-busy') === 'true') {
    event.preventDefault();
    return;
  }
  setTimeout(() => {
    if (event.defaultPrevented) return;
    form.setAttribute('aria-busy', 'true');
    setTimeout(() => form.removeAttribute('aria-busy'), ONCE_IN_MS); // the browser may have been stopped
    begin();
  });
});
document.addEventListener('keydown', (event) => event.key === 'Escape' && end());
// Also where a page comes back from the browser's memory.
window.addEventListener('pageshow', end);
