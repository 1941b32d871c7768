const marks = { good: "i-check", again: "i-warn", wait: "i-help" };

// "Before you record": what was measured, and what to do where it is not good yet.
export function showChecks(list, tally, checks) {
  const key = JSON.stringify(checks.map((c) => [c.key, c.state, c.reason]));
  const good = checks.filter((c) => c.state === "good").length;
  if (tally) tally.textContent = `${good} of ${checks.length}`;
  if (list.dataset.is !== key) {
    list.dataset.is = key;
    list.replaceChildren(
      ...checks.map((c) => {
        const li = document.createElement("li");
        li.dataset.check = c.key;
        li.className = c.state;
        const icon = Object.assign(document.createElement("span"), { className: `e-icon ${marks[c.state]}` });
        const name = Object.assign(document.createElement("span"), { className: "nm", textContent: c.name });
        const value = Object.assign(document.createElement("span"), { className: "n dim v" });
        li.append(icon, name, value);
        if (c.state === "again" && c.reason)
          li.append(Object.assign(document.createElement("span"), { className: "why small mid", textContent: c.reason }));
        return li;
      }),
    );
  }
  checks.forEach((c, i) => {
    list.children[i].querySelector(".v").textContent = c.value;
  });
}
