// The chain chart: zoomed and moved with the wheel and by dragging, its posts walked with the arrow keys, the wanted
// moment dragged or nudged. All of it ends in addresses and forms that work without this script as well.

const chart = () => document.querySelector('[data-chart]');
const number = (element, name) => Number(element.dataset[name]);

function frame(svg) {
  const box = svg.viewBox.baseVal;
  const left = number(svg, 'margin');
  const [from, to] = [number(svg, 'from'), number(svg, 'to')];
  const scale = box.width / svg.getBoundingClientRect().width;
  return {
    from,
    to,
    scale,
    xOf: (event) => (event.clientX - svg.getBoundingClientRect().left) * scale,
    momentAt: (x) => from + ((x - left) / (box.width - 2 * left)) * (to - from),
    secondsIn: (length) => (length / (box.width - 2 * left)) * (to - from),
  };
}

function show(from, to) {
  const go = document.querySelector('#chart-go');
  const svg = chart();
  if (!go || !svg) return;
  const days = Math.min(number(svg, 'widest'), Math.max(number(svg, 'narrowest'), (to - from) / 86400));
  const url = `${go.dataset.base}&days=${Math.round(days * 1000) / 1000}&mid=${Math.round((from + to) / 2)}${go.dataset.filters}`;
  // A link that is boosted goes where it led when the page was drawn, so the address is asked for as such.
  if (window.htmx && go.closest('[hx-boost]'))
    window.htmx.ajax('GET', url, { source: go, target: '#main', select: '#main', swap: 'outerHTML show:none' });
  else window.location.assign(url);
}

// The wheel: many small turns are one step.
let turned = null;
document.addEventListener(
  'wheel',
  (event) => {
    const svg = event.target.closest?.('[data-chart]');
    if (!svg) return;
    event.preventDefault();
    const at = frame(svg);
    if (turned === null) {
      turned = { factor: 1, shift: 0 };
      setTimeout(() => {
        const { factor, shift } = turned;
        turned = null;
        if (factor !== 1) {
          const fixed = at.momentAt(at.xOf(event));
          show(fixed - (fixed - at.from) * factor, fixed + (at.to - fixed) * factor);
        } else if (shift !== 0) {
          show(at.from + shift, at.to + shift);
        }
      }, 120);
    }
    if (Math.abs(event.deltaX) > Math.abs(event.deltaY)) turned.shift += at.secondsIn(event.deltaX * at.scale);
    else turned.factor *= event.deltaY > 0 ? 1.3 : 1 / 1.3;
  },
  { passive: false },
);

function want(seconds) {
  const field = document.querySelector('#wanted_at');
  if (!field) return;
  field.value = `${new Date(Math.round(seconds / 60) * 60000).toISOString().slice(0, 16).replace('T', ' ')} +00:00`;
  field.form.requestSubmit();
}

function moveGrip(grip, length) {
  grip.setAttribute('transform', `translate(${length} 0)`);
}

document.addEventListener('pointerdown', (event) => {
  const svg = event.target.closest?.('[data-chart]');
  if (!svg || event.button !== 0) return;
  const grip = event.target.closest('[data-wanted]');
  const pan = event.target.closest('[data-pan]');
  if (!grip && !pan) return;
  event.preventDefault();
  const at = frame(svg);
  const began = at.xOf(event);
  let moved = 0;
  svg.setPointerCapture(event.pointerId);
  const move = (next) => {
    moved = at.xOf(next) - began;
    if (grip) moveGrip(grip, moved);
    else svg.querySelector('[data-moves]').setAttribute('transform', `translate(${moved} 0)`);
  };
  const end = () => {
    svg.removeEventListener('pointermove', move);
    svg.removeEventListener('pointerup', end);
    svg.removeEventListener('pointercancel', end);
    if (Math.abs(moved) < 3) return;
    if (grip) want(draggedTo(grip, at, moved));
    else show(at.from - at.secondsIn(moved), at.to - at.secondsIn(moved));
  };
  svg.addEventListener('pointermove', move);
  svg.addEventListener('pointerup', end);
  svg.addEventListener('pointercancel', end);
});

function draggedTo(grip, at, moved) {
  return Number(grip.getAttribute('aria-valuenow')) + at.secondsIn(moved);
}

// Arrow keys: from post to post; a focused wanted moment moves by a hundredth of the span, a tenth with Shift.
let nudged = null;
function nudge(grip, event) {
  const at = frame(chart());
  const step = ((at.to - at.from) / (event.shiftKey ? 10 : 100)) * (event.key === 'ArrowRight' ? 1 : -1);
  const waiting = nudged ?? { by: 0, timer: 0 };
  clearTimeout(waiting.timer);
  waiting.by += step;
  const wanted = Number(grip.getAttribute('aria-valuenow')) + waiting.by;
  moveGrip(grip, waiting.by / at.secondsIn(1));
  waiting.timer = setTimeout(() => {
    nudged = null;
    want(wanted);
  }, 500);
  nudged = waiting;
}

function mark(id, scroll) {
  for (const row of document.querySelectorAll('tr.at-post')) row.classList.remove('at-post');
  const row = document.querySelector(`[data-of-post="${CSS.escape(id)}"]`);
  row?.classList.add('at-post');
  if (scroll) row?.scrollIntoView({ block: 'nearest' });
}

document.addEventListener(
  'keydown',
  (event) => {
    const post = event.target.closest?.('[data-post]');
    const grip = event.target.closest?.('[data-wanted]');
    if (event.ctrlKey || event.metaKey || event.altKey || (!post && !grip)) return;
    if (grip && (event.key === 'ArrowLeft' || event.key === 'ArrowRight')) {
      event.preventDefault();
      nudge(grip, event);
    } else if (post && (event.key === 'ArrowLeft' || event.key === 'ArrowRight')) {
      event.preventDefault();
      const all = [...document.querySelectorAll('[data-post]')];
      const next = all[all.indexOf(post) + (event.key === 'ArrowRight' ? 1 : -1)];
      if (!next) return;
      post.setAttribute('tabindex', '-1');
      next.setAttribute('tabindex', '0');
      next.focus();
    } else if (post && (event.key === 'Enter' || event.key === ' ')) {
      event.preventDefault();
      document.querySelector(`[data-of-post="${CSS.escape(post.dataset.post)}"] [data-row]`)?.click();
    }
  },
  true,
);

document.addEventListener('click', (event) => {
  const post = event.target.closest?.('[data-post]');
  if (post) document.querySelector(`[data-of-post="${CSS.escape(post.dataset.post)}"] [data-row]`)?.click();
});

document.addEventListener('focusin', (event) => {
  const post = event.target.closest?.('[data-post]');
  const row = event.target.closest?.('[data-of-post]');
  for (const one of document.querySelectorAll('.post.at-row')) one.classList.remove('at-row');
  if (post) mark(post.dataset.post, true);
  if (row) {
    mark(row.dataset.ofPost, false);
    document.querySelector(`#post-${CSS.escape(row.dataset.ofPost)}`)?.classList.add('at-row');
  }
});
