//! Every trial in small; `make torture` runs them at length.

use metaxis_torture::{Plan, corpus, full_disks, kills, many, power_cuts, production, slow, soak, stops};
use std::{path::Path, time::Duration};

#[tokio::test(flavor = "multi_thread")]
async fn nothing_is_lost_and_nothing_hangs() {
    let top = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let media = metaxis_shoot::made_once(&top.join("demo/small.json"), &top.join("target")).expect("media");
    // Beside the tests, where the workspace's programs are.
    let own = std::env::current_exe().expect("a path");
    let program = own.ancestors().nth(2).expect("a folder").join("metaxis");
    assert!(program.is_file(), "run the tests of the whole workspace: {} is missing", program.display());
    let folder = tempfile::tempdir().expect("a folder");
    let plan = Plan { program, data: folder.path().join("production"), media };
    production(&plan).await.expect("a production");

    // How long an end takes depends on the machine; that it comes is what is tested here.
    assert_eq!(stops(&plan, 3, 1).await.expect("it ends").stops, 3);
    assert_eq!(slow(&plan, 200, 5).await.expect("answers").open, 200);
    assert_eq!(many(&plan, 40).await.expect("they are taken in").files, 40);
    let full = full_disks(&plan, 1, 5).await.expect("small disks");
    println!("{full}");
    assert_eq!(full.stuck, 0, "{full}");
    let cut = power_cuts(&plan, 2, 2).await.expect("it starts again");
    println!("{cut}");
    assert_eq!((cut.lost, cut.other), (0, 0), "{cut}");
    let killed = kills(&plan, 6, 3).await.expect("it starts again");
    assert!(killed.answered > 20 && killed.lost == 0, "{killed}");
    let soaked = soak(&plan, Duration::from_secs(4), 6).await.expect("answers");
    println!("{soaked}");
    assert_eq!((soaked.faults, soaked.lost), (0, 0), "{soaked}");
    let strange = corpus(&plan, 8, 4).await.expect("all jobs end");
    println!("{strange}");
    assert!(strange.went_on && strange.files > 20, "{strange}");
}
