// Offers completions of what is typed; the last answer wins. None are offered where they cannot be
// had: the visitor leaves the page while they are asked for, or the shop is being restarted.
const box = document.getElementById("q");
const offers = document.getElementById("offers");
let asked = 0;

async function completions(text) {
  try {
    const answer = await fetch("/suggest?q=" + encodeURIComponent(text));
    return answer.ok ? await answer.json() : [];
  } catch {
    return [];
  }
}

box.addEventListener("input", async () => {
  const mine = ++asked;
  const texts = await completions(box.value);
  if (mine === asked) {
    offers.replaceChildren(...texts.map((text) => new Option(text, text)));
  }
});
