"use strict";
// The whole page of a device that is not let in yet: nothing else is handed to it.
const theme = localStorage.getItem("orthavis.theme");
if (theme === "light") document.documentElement.dataset.theme = "light";
const [code, name, fault, button] = ["code", "name", "fault"].map((id) => document.getElementById(id)).concat(document.querySelector("button"));
const usual = /mobile|android|iphone/i.test(navigator.userAgent) ? "Phone" : "Computer";
name.value = usual;
const ready = () => {
  button.disabled = code.value.trim() === "";
};
const knock = async (given) => {
  button.disabled = true;
  fault.hidden = true;
  try {
    const body = JSON.stringify({ code: given, name: name.value.trim() || usual });
    const answer = await fetch("/api/v1/garage/pair", { method: "POST", headers: { "content-type": "application/json" }, body });
    if (answer.ok) {
      location.replace("/");
      return;
    }
    fault.textContent = (await answer.json()).detail;
  } catch {
    fault.textContent = "The server is not answering. Check that this device is on the same network, and try again.";
  }
  fault.hidden = false;
  ready();
};
code.addEventListener("input", ready);
document.querySelector("form").addEventListener("submit", (event) => {
  event.preventDefault();
  void knock(code.value);
});
// The code that a phone was pointed at stands after the #; it is taken once, and out of the address.
const shown = location.pathname === "/pair" ? location.hash.slice(1) : "";
if (shown) {
  history.replaceState(null, "", "/");
  void knock(shown);
}
