/** Making elements of the player's page. */
export function element<K extends keyof HTMLElementTagNameMap>(
  tag: K,
  props: Partial<HTMLElementTagNameMap[K]> & { data?: Record<string, string> } = {},
  ...children: (Node | string)[]
): HTMLElementTagNameMap[K] {
  const { data, ...rest } = props;
  const made = Object.assign(document.createElement(tag), rest);
  Object.assign(made.dataset, data);
  made.append(...children);
  return made;
}

export const button = (
  text: string,
  title: string,
  onclick: () => void,
  data: Record<string, string> = {},
): HTMLButtonElement => element("button", { type: "button", textContent: text, title, onclick, data });

export const clock = (s: number): string =>
  `${Math.floor(s / 60)}:${(Math.floor((s % 60) * 10) / 10).toFixed(1).padStart(4, "0")}`;
