// One at a time: asked for while it runs, it runs once more when it is through, with what there is then.
export function inTurn(run) {
  let [running, more] = [null, false];
  return () => {
    more = running !== null;
    running ??= (async () => {
      try {
        do {
          more = false;
          await run().catch((error) => { // what fails is told, unless it is done anew
            if (!more) throw error;
          });
        } while (more);
      } finally {
        running = null;
      }
    })();
    return running;
  };
}
