import { setConsoleFunction } from "three";

// The renderer we use still asks for the old clock, which nobody here can change; everything else
// that three has to say goes to the console as before.
setConsoleFunction((type, message, ...more) => {
  if (message.startsWith("THREE.Clock:")) return;
  console[type](message, ...more);
});
