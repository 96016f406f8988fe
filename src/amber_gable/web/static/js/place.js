// The place of a job: where this device stands, or as an earlier job.
(() => {
  "use strict";
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("[data-here]");
    if (!button) return;
    const form = button.form;
    const said = form.querySelector("[data-here-said]");
    const say = (text) => { said.textContent = text; };
    if (!navigator.geolocation) { say("This device does not say where it is."); return; }
    say("Asking the device …");
    navigator.geolocation.getCurrentPosition((found) => {
      const fill = (name, value) => { form.elements.namedItem(name).value = value; };
      fill("latitude_deg", found.coords.latitude.toFixed(4));
      fill("longitude_deg", found.coords.longitude.toFixed(4));
      fill("time_zone", "");
      if (found.coords.altitude !== null) fill("altitude_m", `${Math.round(found.coords.altitude)} m`);
      say(`Within ${Math.round(found.coords.accuracy)} m.`);
    }, () => say("The device did not say where it is: paste the place instead."), { enableHighAccuracy: true, timeout: 15000 });
  });
  // A list that knows a place fills it in.
  document.addEventListener("change", (event) => {
    const list = event.target.closest?.("[data-places]");
    if (!list) return;
    for (const [name, value] of Object.entries(list.selectedOptions[0].dataset)) list.form.elements.namedItem(name).value = value;
  });
})();
