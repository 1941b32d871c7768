// A report to print; its pictures were taken on the Stage when it was asked for, and stay with this tab.
const take = document.getElementById("main").dataset.take,
  shots = document.getElementById("shots"),
  kept = JSON.parse(sessionStorage.getItem("report:" + take) ?? "[]");
for (const { frame, url } of kept) {
  const figure = document.createElement("figure"),
    img = document.createElement("img"),
    words = document.createElement("figcaption");
  img.src = url;
  img.alt = `The Stage at frame ${frame}`;
  words.textContent = `frame ${frame}`;
  figure.append(img, words);
  shots.append(figure);
}
shots.hidden = kept.length === 0;
document.getElementById("print").addEventListener("click", () => print());
document.body.dataset.ready = "true";
