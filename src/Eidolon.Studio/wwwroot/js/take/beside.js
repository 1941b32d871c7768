import { onKey } from "../app.js";
import { FilmInStep } from "../stage/film.js";

// The film of a witness camera over a corner of the Stage, in step with what is worked on; shown or not is this machine's choice.
export function beside({ clock }, inset) {
  const film = inset.querySelector("video"),
    toggle = document.getElementById("film-shown"),
    said = Object.fromEntries(["offset", "speed", "from", "to"].map((k) => [k, Number(film.dataset[k])]));
  const step = new FilmInStep(film, clock, () => said, Number(film.dataset.first));
  const show = (on) => {
    localStorage.setItem("film", on ? "1" : "0");
    inset.hidden = film.hidden = !on;
    toggle.setAttribute("aria-pressed", on);
    toggle.classList.toggle("on", on);
    step.follow();
  };
  toggle.addEventListener("click", () => show(inset.hidden));
  onKey("W", () => toggle.click());
  show(localStorage.getItem("film") !== "0");
  return step;
}
