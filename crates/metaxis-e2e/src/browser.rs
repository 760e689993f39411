//! Chromium without a window, through ChromeDriver.

use anyhow::{Context, Result, bail};
use serde_json::Value;
use std::{
    io::{BufRead, BufReader},
    path::Path,
    process::{Child, Command, Stdio},
    time::{Duration, Instant},
};
use thirtyfour::{extensions::cdp::ChromeDevTools, prelude::*};

/// A browser of its own, with a driver of its own; both end with [`Browser::close`] or when dropped.
pub struct Browser {
    /// The driver's session.
    pub driver: WebDriver,
    process: Child,
    _profile: tempfile::TempDir,
}

/// The longest any condition is waited for.
const PATIENCE: Duration = Duration::from_secs(120);

impl Browser {
    /// Starts ChromeDriver on a free port and a fresh Chromium of 1280 × 800.
    ///
    /// # Errors
    /// Where chromium or chromedriver is not installed.
    pub async fn start() -> Result<Self> {
        let profile = tempfile::tempdir()?;
        let mut process = Command::new("chromedriver")
            .args(["--port=0", "--log-level=SEVERE"])
            .stdin(Stdio::null())
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .context("chromedriver cannot be started; install it with: apt-get install chromium-driver")?;
        let stdout = process.stdout.take().context("no output")?;
        let port = tokio::task::spawn_blocking(move || port_in(BufReader::new(stdout))).await??;
        let mut wishes = DesiredCapabilities::chrome();
        for arg in [
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--disable-dev-shm-usage",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--hide-scrollbars",
            "--window-size=1280,800",
        ] {
            wishes.add_arg(arg)?;
        }
        wishes.add_arg(&format!("--user-data-dir={}", profile.path().display()))?;
        let driver = WebDriver::new(format!("http://127.0.0.1:{port}"), wishes).await?;
        driver.set_window_rect(0, 0, 1280, 800).await?;
        // Headless windows keep room for a frame that is not there: ask for the page's own size.
        let inner = driver.execute("return [innerWidth, innerHeight]", vec![]).await?.json().clone();
        let missing = 800 - inner[1].as_i64().unwrap_or(800);
        driver.set_window_rect(0, 0, 1280, (800 + missing) as u32).await?;
        Ok(Self { driver, process, _profile: profile })
    }

    /// Runs a script in the page and returns its value.
    ///
    /// # Errors
    /// The script's own error.
    pub async fn script(&self, text: &str) -> Result<Value> {
        Ok(self.driver.execute(text, vec![]).await?.json().clone())
    }

    /// Waits until a script's value is true.
    ///
    /// # Errors
    /// After two minutes, with the page's text for the reader of the test's output.
    pub async fn until(&self, condition: &str) -> Result<()> {
        let since = Instant::now();
        loop {
            // What is not on the page yet is not true yet.
            let asked = format!("try {{ return !!({condition}) }} catch {{ return false }}");
            if self.script(&asked).await? == Value::Bool(true) {
                return Ok(());
            }
            if since.elapsed() > PATIENCE {
                let text = self.script("return document.body.innerText").await?;
                bail!("waited in vain for: {condition}\nThe page says: {text}");
            }
            tokio::time::sleep(Duration::from_millis(20)).await;
        }
    }

    /// Waits for text on the page.
    ///
    /// # Errors
    /// As [`Browser::until`].
    pub async fn until_text(&self, text: &str) -> Result<()> {
        self.until(&format!("document.body.innerText.includes({})", Value::from(text))).await
    }

    /// Clicks what carries this name: a button, a link or a control by its label.
    ///
    /// # Errors
    /// Where there is no such control.
    pub async fn press(&self, name: &str) -> Result<()> {
        let find = format!(
            "[...document.querySelectorAll('button, a, [role=button]')].find(e => (e.getAttribute('aria-label') ?? e.innerText).trim() === {})",
            Value::from(name)
        );
        self.until(&format!("{find} && !{find}.disabled")).await?;
        self.script(&format!("{find}.click()")).await?;
        Ok(())
    }

    /// Chooses in the list that has this word before it.
    ///
    /// # Errors
    /// Where there is no such list.
    pub async fn choose(&self, label: &str, value: &str) -> Result<()> {
        let (label, value) = (Value::from(label), Value::from(value));
        let list = format!(
            "[...document.querySelectorAll('label')].find(e => e.firstChild.innerText === {label})?.querySelector('select')"
        );
        self.until(&list).await?;
        self.script(&format!(
            "const list = {list};
             Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value').set.call(list, {value});
             list.dispatchEvent(new Event('change', {{ bubbles: true }}))"
        ))
        .await?;
        Ok(())
    }

    /// Types keys at whatever has the focus.
    ///
    /// # Errors
    /// Errors of the driver.
    pub async fn keys(&self, keys: impl AsRef<str>) -> Result<()> {
        Ok(self.driver.action_chain().send_keys(keys.as_ref()).perform().await?)
    }

    /// Types keys while holding another down.
    ///
    /// # Errors
    /// Errors of the driver.
    pub async fn keys_with(&self, held: Key, keys: &str) -> Result<()> {
        Ok(self.driver.action_chain().key_down(held.clone()).send_keys(keys).key_up(held).perform().await?)
    }

    /// Puts the playhead of the line at a group frame, by pointing at its strip.
    ///
    /// # Errors
    /// Where the frame does not come on screen.
    pub async fn seek_line(&self, frame: i64) -> Result<()> {
        let strip = "document.querySelector('[aria-label=\"Place in the group\"]')";
        self.until(strip).await?;
        self.script(&format!(
            "const s = {strip}, b = s.getBoundingClientRect();
             const x = b.left + b.width * ({frame} + 0.5) / (Number(s.ariaValueMax) + 1);
             s.dispatchEvent(new PointerEvent('pointerdown', {{ bubbles: true, clientX: x, clientY: b.top + 5, pointerId: 1 }}));"
        ))
        .await?;
        self.until(&format!(
            "document.querySelector('[data-testid=line-picture]').dataset.frame === '{frame}'"
        ))
        .await
    }

    /// What the page holds of its memory once all that nobody needs any more is gone, MB: what scripts hold, and what lies beside their
    /// memory as bytes of files; and how many nodes.
    ///
    /// # Errors
    /// Errors of the driver.
    pub async fn held(&self) -> Result<(f64, i64)> {
        let tools = ChromeDevTools::new(self.driver.handle.clone());
        tools.execute_cdp("HeapProfiler.collectGarbage").await?;
        let heap = tools.execute_cdp("Runtime.getHeapUsage").await?;
        let used = heap["usedSize"]
            .as_f64()
            .zip(heap["backingStorageSize"].as_f64())
            .map(|(own, beside)| own + beside);
        let nodes = tools.execute_cdp("Memory.getDOMCounters").await?["nodes"].as_i64();
        Ok((used.context("no size of the heap")? / 1e6, nodes.context("no count of nodes")?))
    }

    /// Takes a picture of the page.
    ///
    /// # Errors
    /// Errors of the driver or the disk.
    pub async fn picture(&self, path: &Path) -> Result<()> {
        Ok(self.driver.screenshot(path).await?)
    }

    /// Ends the browser and its driver.
    ///
    /// # Errors
    /// Errors of the driver.
    pub async fn close(mut self) -> Result<()> {
        self.driver.clone().quit().await?;
        self.process.kill()?;
        self.process.wait()?;
        Ok(())
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        // A failed test unwinds past `close`.
        let _ = self.process.kill();
        let _ = self.process.wait();
    }
}

fn port_in(lines: impl BufRead) -> Result<u16> {
    for line in lines.lines() {
        let line = line?;
        if let Some((_, rest)) = line.split_once("on port ") {
            let digits: String = rest.chars().take_while(char::is_ascii_digit).collect();
            if let Ok(port) = digits.parse()
                && port != 0
            {
                return Ok(port);
            }
        }
    }
    bail!("chromedriver ended without naming its port")
}
