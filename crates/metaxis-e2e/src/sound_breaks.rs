//! Breaks in what goes to the loudspeakers, counted in the page.

use crate::Browser;
use anyhow::{Context, Result};

/// A script: counts stretches of digital silence of 5 ms and more in what goes to the loudspeakers once something was heard.
/// Recorded sound has noise: where there is none, nothing was played.
pub(crate) const COUNT_BREAKS: &str = "
    const connect = AudioNode.prototype.connect;
    window.heard = { samples: 0, breaks: 0, silent: 0, begun: false };
    AudioNode.prototype.connect = function (to, ...rest) {
      const { context } = this;
      if (to === context.destination && !this.tap) {
        if (!context.tapped) {
          context.tapped = context.createGain();
          const tap = context.createScriptProcessor(16384, 2, 2);
          tap.tap = true;
          tap.onaudioprocess = ({ inputBuffer }) => {
            const [left, right] = [inputBuffer.getChannelData(0), inputBuffer.getChannelData(1)];
            const own = window.heard;
            for (let i = 0; i < left.length; i++) {
              if (left[i] === 0 && right[i] === 0) { own.silent++; continue; }
              if (own.begun && own.silent >= 0.005 * context.sampleRate) own.breaks++;
              own.begun = true;
              own.silent = 0;
            }
            if (own.begun) own.samples += left.length;
          };
          connect.call(context.tapped, tap);
          connect.call(tap, context.destination);
        }
        connect.call(this, context.tapped);
      }
      return connect.call(this, to, ...rest);
    };";

/// What was heard.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Heard {
    /// Samples a channel, from the first that was heard on.
    pub samples: usize,
    /// Times at which nothing was played in between.
    pub breaks: usize,
}

/// What was heard since the counting was set up.
pub(crate) async fn heard(browser: &Browser) -> Result<Heard> {
    let own = browser.script("return [window.heard.samples, window.heard.breaks]").await?;
    let count = |at: usize| own[at].as_u64().map(|own| own as usize).context("nothing was counted");
    Ok(Heard { samples: count(0)?, breaks: count(1)? })
}
