// A file that is too large is said to be before it is sent: sending it would only end in a broken connection.
const file = document.getElementById("file");
const said = document.getElementById("toolarge");
const most = Number(file.dataset.mostMb);

file.addEventListener("change", () => {
  const mb = (file.files[0]?.size ?? 0) / 1e6;
  said.hidden = mb <= most;
  said.textContent = mb > most ? `“${file.files[0].name.slice(0, 80)}” is ${mb.toFixed(0)} MB; a measured line of more than ${most} MB is not taken. Save only the part with the line.` : "";
  file.form.querySelector("button").disabled = mb > most;
});
document.body.dataset.ready = "yes";
