"""What of the screen leaves its place: controls, labels and numbers outside their panel, text that spills out
of its box, and things that lie over each other."""

# Whatever is clipped on purpose, by a list that scrolls or a name that is cut with an ellipsis, is left out.
FAULTS = """() => {
  const found = [];
  const panel = document.querySelector('[data-part=panel]');
  const clipped = /(auto|scroll|hidden|clip)/;
  const isSeen = (e) => {
    const box = e.getBoundingClientRect(), style = getComputedStyle(e);
    return style.visibility !== 'hidden' && box.width > 1 && box.height > 1;
  };
  const isClipped = (e) => {
    for (let p = e.parentElement; p && p !== document.body; p = p.parentElement) {
      const style = getComputedStyle(p);
      if (style.clipPath !== 'none' || (p !== panel && clipped.test(style.overflowX))) return true;
    }
    return false;
  };
  const name = (e) =>
    (e.getAttribute('aria-label') || e.textContent || e.value || e.tagName).trim().slice(0, 40);
  const things = 'button, input, textarea, select, label, h2, h3, h4, p, span, small, b, img, td, th, kbd';
  for (const area of document.querySelectorAll('[data-part=panel], [data-part=top], [data-part=recipe]')) {
    const place = area.getBoundingClientRect();
    const seen = [...area.querySelectorAll(things)].filter(
      (e) => isSeen(e) && !e.closest('svg') && !e.closest('[data-part=range]'));
    for (const e of seen) {
      const box = e.getBoundingClientRect(), style = getComputedStyle(e);
      if (!isClipped(e) && (box.right > place.right + 1 || box.left < place.left - 1))
        found.push(`“${name(e)}” is outside`);
      if (area !== panel && (box.bottom > place.bottom + 1 || box.top < place.top - 1))
        found.push(`“${name(e)}” is above or below its row`);
      if (!clipped.test(style.overflowX) && style.display !== 'inline' && e.scrollWidth > e.clientWidth + 1)
        found.push(`“${name(e)}” spills over`);
    }
    const leaves = seen.filter(
      (e) => !seen.some((other) => other !== e && e.contains(other)) && !isClipped(e));
    leaves.forEach((a, i) => leaves.slice(i + 1).forEach((b) => {
      const [p, q] = [a.getBoundingClientRect(), b.getBoundingClientRect()];
      if (Math.min(p.right, q.right) - Math.max(p.left, q.left) > 2
          && Math.min(p.bottom, q.bottom) - Math.max(p.top, q.top) > 2)
        found.push(`“${name(a)}” and “${name(b)}” lie over each other`);
    }));
  }
  return [...new Set(found)];
}"""
# Letters set so wide make text about a third longer.
WIDE_TEXT = "* { letter-spacing: 0.13em !important }"
OPEN_ALL = "document.querySelectorAll('[data-part=fold][data-state=closed]').forEach(head => head.click())"
