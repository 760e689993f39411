//! Jobs that panic and ends that cannot be written: the job fails, everything else goes on, and again means again.

mod common;

use common::{Api, config, small};
use fail::FailScenario;
use serde_json::{Value, json};

fn job<'a>(day: &'a Value, kind: &str) -> &'a Value {
    day["jobs"].as_array().expect("jobs").iter().find(|job| job["kind"] == kind).expect("jobs of that kind")
}

/// One test: what is injected holds for the whole process.
#[tokio::test(flavor = "multi_thread")]
async fn a_job_that_fails_in_any_way_stops_nothing_else() {
    let scenario = FailScenario::setup();
    let media = small();
    for kind in ["intake", "listen", "proxy", "pass"] {
        let data = tempfile::tempdir().expect("a folder");
        let api = Api::start(config(data.path(), &[&media])).await;
        fail::cfg(kind, "panic(of its own accord)").expect("injected");
        api.take_in(&media).await;
        let day = if kind == "pass" { api.sync().await } else { api.idle().await };
        let failed = job(&day, kind);
        assert!(failed["failed"].as_i64() > Some(0), "{kind}: {failed}");
        let said = failed["message"].as_str().expect("a message");
        assert!(said.contains("of its own accord") && said.contains("everything else goes on"), "{said}");
        fail::remove(kind);
        api.post(&format!("/jobs/{kind}/resume"), json!({})).await;
        let day = api.idle().await;
        assert_eq!((&job(&day, kind)["failed"], &job(&day, kind)["open"]), (&json!(0), &json!(0)), "{kind}");
        if kind == "pass" {
            // The end of a job cannot be written: it is written later, and does not count as running until the next start.
            fail::cfg("settle", "1*return").expect("injected");
            let day = api.sync().await;
            assert_eq!(job(&day, "pass")["failed"], 0, "{day}");
            assert!(day["placements"].as_array().is_some_and(|all| !all.is_empty()));
        }
        api.server.stop().await;
    }
    scenario.teardown();
}

#[tokio::test(flavor = "multi_thread")]
async fn a_data_folder_has_one_server() {
    let data = tempfile::tempdir().expect("a folder");
    let first = Api::start(config(data.path(), &[])).await;
    let second = metaxis_server::start(config(data.path(), &[])).await;
    let said = second.err().expect("refused").to_string();
    assert!(
        said.contains("in use by another server") && said.contains(&std::process::id().to_string()),
        "{said}"
    );
    assert_eq!(first.get("/day").await.0, 200, "the first goes on");
    first.server.stop().await;
    drop(first.client);
    let third = Api::start(config(data.path(), &[])).await;
    third.server.stop().await;
}
