//! What is sent from the page arrives whole and as it was, or not at all.

use crate::common::{Api, clip, config, small};
use metaxis_server::{Limits, ServeConfig};
use reqwest::{Body, Url};
use serde_json::{Value, json};
use std::{
    convert::Infallible,
    fs,
    time::{Duration, SystemTime},
};

struct Site {
    api: Api,
    top: tempfile::TempDir,
}

impl Site {
    async fn new(upload_bytes: u64) -> Self {
        let top = tempfile::tempdir().expect("a folder");
        let limits = Limits { upload_bytes, ..Limits::default() };
        let config = ServeConfig { limits, ..config(&top.path().join("data"), &[top.path()]) };
        Self { api: Api::start(config).await, top }
    }

    fn address(&self, path: &str, whole: &[u8], size: usize, offset: usize) -> Url {
        let content = blake3::hash(whole).to_hex().to_string();
        let (size, offset) = (size.to_string(), offset.to_string());
        let asked = [("path", path), ("size", &size), ("blake3", &content), ("offset", &offset)];
        Url::parse_with_params(&self.api.url("/uploads"), asked).expect("a url")
    }

    async fn state(&self, path: &str, whole: &[u8]) -> (u16, Value) {
        let url = self.address(path, whole, whole.len(), 0);
        let answer = self.api.client.get(url).send().await.expect("an answer");
        (answer.status().as_u16(), answer.json().await.unwrap_or_default())
    }

    /// Sends `piece` of `whole`, which is said to be `size` long.
    async fn put_as(
        &self,
        path: &str,
        whole: &[u8],
        size: usize,
        offset: usize,
        piece: &[u8],
    ) -> (u16, Value) {
        let url = self.address(path, whole, size, offset);
        let answer = self.api.client.put(url).body(piece.to_vec()).send().await.expect("an answer");
        (answer.status().as_u16(), answer.json().await.unwrap_or_default())
    }

    async fn put(&self, path: &str, whole: &[u8], offset: usize, piece: &[u8]) -> (u16, Value) {
        self.put_as(path, whole, whole.len(), offset, piece).await
    }

    fn uploaded(&self, path: &str) -> Option<Vec<u8>> {
        fs::read(self.top.path().join("data/uploads").join(path)).ok()
    }
}

fn said(answer: &Value, what: &str) -> bool {
    answer["error"].as_str().is_some_and(|error| error.contains(what))
}

#[tokio::test]
async fn uploads_arrive_whole_go_on_after_a_break_and_stay_in_their_folder() {
    let site = Site::new(8_000_000).await;
    let bytes = fs::read(small().join("R_RECORDER/S-002.wav")).expect("read");
    let (half, size) = (bytes.len() / 2, bytes.len());
    let take = "R_SOUND/take.wav";
    assert_eq!(
        site.put(take, &bytes, 0, &bytes[..half]).await,
        (200, json!({ "have": half, "complete": false }))
    );
    assert_eq!(site.state(take, &bytes).await.1["have"], half);
    assert_eq!(site.put(take, &bytes, 10, &bytes[10..20]).await.0, 422, "it goes on where it broke off");
    assert_eq!(
        site.put(take, &bytes, half, &bytes[half..]).await,
        (200, json!({ "have": size, "complete": true }))
    );
    assert_eq!(site.state(take, &bytes).await, (200, json!({ "have": size, "complete": true })));
    let long = format!("{}.wav", "n".repeat(252));
    for path in ["../out.wav", "/etc/x.wav", ".hidden/x.wav", "a/../../x.wav", "", "a\nb.wav", &long] {
        assert_eq!(site.put(path, b"abcd", 0, b"abcd").await.0, 422, "{path:?}");
    }
    let longest = format!("{}.wav", "n".repeat(251));
    assert_eq!(site.put(&longest, b"abcd", 0, b"abcd").await.0, 200, "as long as a name can be");
    let (status, refused) = site.put(take, b"abcd", 0, b"abcd").await;
    assert!(status == 422 && said(&refused, "another file of this name"), "{refused}");
    assert!(site.state(take, b"abcd").await.0 == 422, "told before a byte of it is sent");
    assert_eq!(site.put_as("endless.wav", b"x", usize::MAX, 0, b"x").await.0, 422);
    assert_eq!(site.put("empty.wav", b"", 0, b"").await.0, 422);
    assert_eq!(site.put("long.wav", b"abcd", 0, b"abcdefgh").await.0, 422, "more than was announced");
    let (status, refused) = site.put_as("huge.mov", b"x", 50_000_000, 0, b"x").await;
    assert!(status == 422 && said(&refused, "limited to 0.0 GB"), "{refused}");
    assert_eq!(site.api.post("/uploads/done", json!({})).await.0, 200);
    let day = site.api.idle().await;
    assert_eq!(clip(&day, "take.wav")["relative"], take);
    assert_eq!(site.uploaded(take), Some(bytes));
    let taken_in = day["clips"].as_array().map(Vec::len);
    assert_eq!(taken_in, Some(1), "half a file is no clip: {}", day["clips"]);
    site.api.server.stop().await;
}

#[tokio::test]
async fn another_file_of_the_same_name_never_goes_on_in_what_is_there() {
    let site = Site::new(1_000_000).await;
    let (one, other) = (vec![1_u8; 4000], vec![2_u8; 4000]);
    assert_eq!(site.put("A/take.wav", &one, 0, &one[..2000]).await.0, 200);
    // The second begins at its own beginning, whatever there is of the first.
    assert_eq!(site.state("A/take.wav", &other).await.1["have"], 0);
    assert_eq!(site.put("A/take.wav", &other, 2000, &other[2000..]).await.0, 422);
    assert_eq!(site.put("A/take.wav", &other, 0, &other).await.1["complete"], true);
    let (status, refused) = site.put("A/take.wav", &one, 2000, &one[2000..]).await;
    assert!(status == 422 && said(&refused, "another file of this name"), "{refused}");
    assert_eq!(site.uploaded("A/take.wav"), Some(other));
    site.api.server.stop().await;
}

#[tokio::test]
async fn what_broke_off_long_ago_makes_room_at_the_next_start() {
    let site = Site::new(1_000_000).await;
    let whole = vec![5_u8; 4000];
    for path in ["old.wav", "new.wav"] {
        assert_eq!(site.put(path, &[&whole[..], path.as_bytes()].concat(), 0, &whole).await.0, 200);
    }
    site.api.server.stop().await;
    drop(site.api.client);
    let folder = site.top.path().join("data/uploads");
    let parts = || fs::read_dir(&folder).expect("read").flatten().map(|entry| entry.path());
    let of_old = format!(".{}.part", blake3::hash(&[&whole[..], b"old.wav"].concat()).to_hex());
    let long_ago = SystemTime::now() - Duration::from_secs(8 * 24 * 3600);
    let old = fs::OpenOptions::new().write(true).open(folder.join(&of_old)).expect("there");
    old.set_modified(long_ago).expect("set");
    assert_eq!(parts().count(), 2);
    let api = Api::start(config(&site.top.path().join("data"), &[site.top.path()])).await;
    let left: Vec<_> = parts().collect();
    assert!(left.len() == 1 && !left[0].ends_with(&of_old), "{left:?}");
    api.server.stop().await;
}

#[tokio::test]
async fn what_arrives_other_than_it_was_sent_is_not_kept() {
    let site = Site::new(1_000_000).await;
    let whole = vec![7_u8; 3000];
    let mut spoilt = whole.clone();
    spoilt[1500] = 8;
    let (status, refused) = site.put("take.wav", &whole, 0, &spoilt).await;
    assert!(status == 422 && said(&refused, "other than it was sent"), "{refused}");
    assert_eq!(site.uploaded("take.wav"), None);
    assert_eq!(site.state("take.wav", &whole).await.1["have"], 0, "it begins anew");
    assert_eq!(site.put("take.wav", &whole, 0, &whole).await.1["complete"], true);
    site.api.server.stop().await;
}

#[tokio::test]
async fn two_who_send_the_same_piece_double_nothing() {
    let site = Site::new(100_000_000).await;
    for round in 0..20 {
        let path = format!("take {round}.wav");
        let whole: Vec<u8> = (0..200_000).map(|i| (i * 7 + round) as u8).collect();
        let send = || site.put(&path, &whole, 0, &whole);
        let answers = futures::future::join_all((0..4).map(|_| send())).await;
        let complete = answers.iter().filter(|(_, answer)| answer["complete"] == true).count();
        assert_eq!(complete, 1, "one of them sent it: {answers:?}");
        assert!(answers.iter().all(|(status, _)| [200, 422].contains(status)), "{answers:?}");
        assert_eq!(site.uploaded(&path), Some(whole));
    }
    site.api.server.stop().await;
}

#[tokio::test]
async fn what_is_on_its_way_counts_and_one_that_is_gone_frees_its_file() {
    let site = Site::new(10_000).await;
    let whole = vec![3_u8; 8000];
    // A sender that has begun and does not go on.
    let (half, rest) = tokio::sync::mpsc::channel::<Result<Vec<u8>, Infallible>>(1);
    half.send(Ok(whole[..4000].to_vec())).await.expect("sent");
    let body = Body::wrap_stream(tokio_stream::wrappers::ReceiverStream::new(rest));
    let url = site.address("slow.wav", &whole, whole.len(), 0);
    let slow = tokio::spawn(site.api.client.put(url).body(body).send());
    // Until it has arrived, its place is free for others.
    while site.state("slow.wav", &whole).await.1["have"] != 4000 {
        tokio::task::yield_now().await;
    }
    let (status, refused) = site.put("slow.wav", &whole, 4000, &whole[4000..]).await;
    assert!(status == 422 && said(&refused, "sent from elsewhere"), "{refused}");
    let (status, refused) = site.put("other.wav", &[4; 4000], 0, &[4; 4000]).await;
    assert!(status == 422 && said(&refused, "limited"), "what is promised counts: {refused}");
    // It breaks off: what came stays, and whoever comes goes on from there.
    drop(half);
    slow.await.expect("joined").expect("an answer");
    assert_eq!(site.put("slow.wav", &whole, 4000, &whole[4000..]).await.1["complete"], true);
    assert_eq!(site.uploaded("slow.wav"), Some(whole));
    site.api.server.stop().await;
}
