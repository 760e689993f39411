//! What goes to the loudspeakers, heard in the page.

/// A script: keeps how loud the last piece that went to the loudspeakers was, left and right.
pub const EAR: &str = "
    const connect = AudioNode.prototype.connect;
    AudioNode.prototype.connect = function (to, ...rest) {
      const { context } = this;
      if (to === context.destination && !this.tap) {
        if (!context.ear) {
          context.ear = context.createGain();
          const tap = context.createScriptProcessor(4096, 2, 2);
          tap.tap = true;
          tap.onaudioprocess = ({ inputBuffer }) => {
            window.loud = [0, 1].map((side) =>
              inputBuffer.getChannelData(side).reduce((most, value) => Math.max(most, Math.abs(value)), 0));
          };
          connect.call(context.ear, tap);
          connect.call(tap, context.destination);
        }
        connect.call(this, context.ear);
      }
      return connect.call(this, to, ...rest);
    };";
