//! Where the islands lie on the day.

use crate::sync::{
    answer::Island,
    labels::DeviceClock,
    settle::{Lies, Settling},
};

/// Number of each clip's component: 0 for the axis's and for clips that lie nowhere, islands in the order of time.
pub(super) fn component_numbers(day: &Settling) -> Vec<u32> {
    let order = in_order(day);
    let number = |own: &usize| order.iter().position(|lies| lies.component == *own);
    day.layout.component.iter().map(|own| number(own).map_or(0, |at| at as u32 + 1)).collect()
}

/// All components with where they lie on the day, the axis's first.
pub(crate) fn islands_laid(day: &Settling, clocks: &[DeviceClock]) -> Vec<Island> {
    let zero = day.day_of_axis(clocks);
    let axis = Island {
        component: 0,
        reference: day.axis.origin,
        zero_s: 0.0,
        sigma_s: zero.map(|(_, label)| label.sigma_s),
        by: zero.map(|(_, label)| label.kind),
        day_start_s: zero.map(|(zero_s, _)| zero_s),
    };
    let others = in_order(day).into_iter().enumerate().map(|(at, lies)| {
        let reference = day.base_of(lies.component);
        let zero_s = day.layout.maps[reference][0].start_s;
        Island {
            component: at as u32 + 1,
            reference,
            zero_s,
            sigma_s: lies.by.map(|(_, sigma_s)| sigma_s),
            by: lies.by.map(|(kind, _)| kind),
            day_start_s: zero.filter(|_| lies.by.is_some()).map(|(day_s, _)| day_s + zero_s),
        }
    });
    [axis].into_iter().chain(others).collect()
}

/// The islands in the order of time; those of which nothing says when they ran last.
fn in_order(day: &Settling) -> Vec<Lies> {
    let mut order = day.lies.clone();
    order.sort_by(|a, b| {
        let from_s = |own: &Lies| day.extent_s(own.component).0;
        a.by.is_none().cmp(&b.by.is_none()).then(from_s(a).total_cmp(&from_s(b)))
    });
    order
}
