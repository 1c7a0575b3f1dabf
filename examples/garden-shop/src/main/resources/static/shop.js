// Offers completions of what is typed; the last answer wins.
const box = document.getElementById("q");
const offers = document.getElementById("offers");
let asked = 0;
box.addEventListener("input", async () => {
  const mine = ++asked;
  const answer = await fetch("/suggest?q=" + encodeURIComponent(box.value));
  const texts = answer.ok ? await answer.json() : [];
  if (mine === asked) {
    offers.replaceChildren(...texts.map((text) => new Option(text, text)));
  }
});
