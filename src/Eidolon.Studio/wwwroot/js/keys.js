const box = document.getElementById("keys-off");
box.checked = localStorage.getItem("e-keys") === "off";
box.addEventListener("change", () => localStorage.setItem("e-keys", box.checked ? "off" : "on"));
