// What does not fit where it stands: labels over values, cut texts, texts over texts, sideways scrolling.
const root = [...document.querySelectorAll("[role=dialog], [role=menu], [role=listbox].MuiList-root")].at(-1) ?? document.body;
const faults = new Set();
const say = (what, node) => {
  const element = node.nodeType === Node.TEXT_NODE ? node.parentElement : node;
  const words = (element.innerText || element.ariaLabel || element.className || "").trim();
  faults.add(`${what}: ${element.tagName.toLowerCase()} “${words.slice(0, 50).replace(/\s+/g, " ")}”`);
};
const shown = (element) => element.checkVisibility({ opacityProperty: true, visibilityProperty: true });
const clipOf = (element) => {
  let box = { left: 0, top: 0, right: innerWidth, bottom: innerHeight };
  for (let each = element; each && each !== document.body; each = each.parentElement) {
    const { overflowX, overflowY, position } = getComputedStyle(each);
    if (overflowX === "visible" && overflowY === "visible") continue;
    const { left, top, right, bottom } = each.getBoundingClientRect();
    box = {
      left: Math.max(box.left, left), top: Math.max(box.top, top),
      right: Math.min(box.right, right), bottom: Math.min(box.bottom, bottom),
    };
    if (position === "fixed") break;
  }
  return box;
};
const texts = [];
for (const element of root.querySelectorAll("*")) {
  if (!shown(element) || element.closest("svg, canvas, legend, [data-testid=rows] *")) continue;
  const style = getComputedStyle(element);
  const own = [...element.childNodes].filter((n) => n.nodeType === Node.TEXT_NODE && n.textContent.trim());
  const wide = element.scrollWidth > element.clientWidth + 1 && element.clientWidth > 1;
  if (["auto", "scroll"].includes(style.overflowX) && wide && !element.dataset.wide) say("scrolls sideways", element);
  if (own.length && ["hidden", "clip"].includes(style.overflowX) && wide && style.textOverflow !== "ellipsis")
    say("cut", element);
  const high = element.scrollHeight > element.clientHeight + 3 && element.clientHeight > 1;
  if (own.length && ["hidden", "clip"].includes(style.overflowY) && high && style.webkitLineClamp === "none")
    say("cut below", element);
  if (element.matches(".MuiInputLabel-root[data-shrink=false]")) {
    const field = element.parentElement.querySelector("input, textarea, select, [role=combobox]");
    const value = field && (field.selectedOptions?.[0]?.text ?? field.value ?? field.innerText);
    if (value?.trim()) say("label over its value", element);
  }
  for (const node of own) {
    const range = document.createRange();
    range.selectNodeContents(node);
    const clip = clipOf(element);
    for (const line of range.getClientRects()) {
      const box = {
        left: Math.max(line.left, clip.left), top: Math.max(line.top + 2, clip.top),
        right: Math.min(line.right, clip.right), bottom: Math.min(line.bottom - 2, clip.bottom),
      };
      if (box.right - box.left > 2 && box.bottom - box.top > 2) texts.push({ node, element, ...box });
    }
  }
}
texts.forEach((one, at) => {
  for (const two of texts.slice(at + 1)) {
    if (one.node === two.node) continue;
    const across = Math.min(one.right, two.right) - Math.max(one.left, two.left);
    const down = Math.min(one.bottom, two.bottom) - Math.max(one.top, two.top);
    if (across > 3 && down > 3) say(`under “${two.element.innerText.trim().slice(0, 30)}”`, one.node);
  }
});
return [...faults];
