//! x
use metaxis_bench::KINDS;
use metaxis_core::{signal::*, sync::*};
fn main() {
    let name = std::env::args().nth(1).unwrap();
    let seeds: Vec<u64> = std::env::args().skip(2).map(|a| a.parse().unwrap()).collect();
    let kind = KINDS.iter().find(|k| k.name == name).unwrap();
    let (mut sc, mut top, mut n): (Vec<f32>, i32, i32) = (vec![], 0, 0);
    let mut er: Vec<f32> = vec![];
    for seed in seeds {
        let shoot = (kind.make)(seed);
        let pats: Vec<Pattern> = shoot
            .takes
            .iter()
            .map(|t| {
                let mut r = BandReader::new();
                r.push(&t.samples);
                Pattern::new(&r.finish())
            })
            .collect();
        let mut c = Correlator::default();
        let store = c.searched(&pats[0]);
        let h0 = HeardSound { pattern: &pats[0], samples: &shoot.takes[0].samples };
        let mut al = Aligner::default();
        for (i, t) in shoot.takes.iter().enumerate().skip(1) {
            let q = c.sought(&pats[i]);
            let m = c.search(&store, &q, 62, 8, 200);
            let truth = t.truth[0].1 - shoot.takes[0].truth[0].1;
            let rank = m.iter().position(|m| (m.lag_frames as f64 / 25.0 - truth).abs() < 0.2);
            if std::env::var("FAST").is_ok() {
                sc.push(rank.map_or(0.0, |r| m[r].score));
                top += i32::from(rank == Some(0));
                n += 1;
                continue;
            }
            let h = HeardSound { pattern: &pats[i], samples: &t.samples };
            if std::env::var("HEI").is_ok() {
                let d = al.align(&h0, &h, None, truth, Effort::Probe);
                sc.push(d.as_ref().map_or(0.0, |d| {
                    if (d.stretches[0].start_s - truth).abs() < 0.02 { d.height as f32 } else { 0.0 }
                }));
                er.push(d.as_ref().map_or(99.0, |d| ((d.stretches[0].start_s - truth) * 1e3).abs() as f32));
                n += 1;
                continue;
            }
            let a = al.align(&h0, &h, None, truth, Effort::Probe);
            let d = al.align(&h0, &h, None, truth, Effort::Deep);
            let show = |a: &Option<Alignment>| {
                a.as_ref().map(|a| {
                    format!(
                        "h {:.1} beside {:.1} odds {:.0} {}/{} err {:.3} ms sig {:.4}",
                        a.height,
                        a.beside,
                        a.log_odds,
                        a.agreeing,
                        a.tried,
                        (a.stretches[0].start_s - truth) * 1e3,
                        a.sigma_s * 1e3
                    )
                })
            };
            println!(
                "{seed} take {i} len {:.0} top {:.1} rank {:?} score {:.1} | {:?} | {:?}",
                t.samples.len() as f64 / 16e3,
                m.first().map_or(0.0, |m| m.score),
                rank,
                rank.map_or(0.0, |r| m[r].score),
                show(&a),
                show(&d)
            );
        }
    }
    sc.sort_by(f32::total_cmp);
    er.sort_by(f32::total_cmp);
    if er.len() > 0 {
        println!(
            "err median {:.4} q75 {:.3} q90 {:.3}",
            er[er.len() / 2],
            er[er.len() * 3 / 4],
            er[er.len() * 9 / 10]
        );
    }
    if n > 0 {
        println!(
            "{name}: first {top}/{n}, scores q10 {:.1} q25 {:.1} median {:.1}",
            sc[sc.len() / 10],
            sc[sc.len() / 4],
            sc[sc.len() / 2]
        );
    }
}
