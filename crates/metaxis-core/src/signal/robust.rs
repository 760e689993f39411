//! Spread that a few outliers do not move.

/// A number that spreads are measured in.
pub(crate) trait Spread: Copy {
    /// Standard deviations in a median deviation of a normal distribution: 1/Φ⁻¹(3/4) (Rousseeuw and Croux, 1993).
    const SIGMAS: Self;
    /// Which of two is larger.
    fn order(&self, other: &Self) -> std::cmp::Ordering;
    /// So many standard deviations.
    fn scaled(self) -> Self;
}

macro_rules! spread {
    ($($float:ident),*) => {$(
        impl Spread for $float {
            const SIGMAS: Self = 1.4826;

            fn order(&self, other: &Self) -> std::cmp::Ordering {
                self.total_cmp(other)
            }

            fn scaled(self) -> Self {
                self * Self::SIGMAS
            }
        }
    )*};
}

spread!(f32, f64);

/// Standard deviation that the median of some absolute deviations stands for; `None` of none.
pub(crate) fn scaled_median<T: Spread>(deviations: &mut [T]) -> Option<T> {
    let middle = deviations.len() / 2;
    if deviations.is_empty() {
        return None;
    }
    let (_, median, _) = deviations.select_nth_unstable_by(middle, T::order);
    Some(median.scaled())
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn of_nothing_there_is_none() {
        assert_eq!(scaled_median::<f64>(&mut []), None);
        assert_eq!(scaled_median(&mut [2.0_f32]), Some(2.0 * 1.4826));
    }

    proptest! {
        #[test]
        fn a_few_outliers_do_not_move_it(mut own in prop::collection::vec(0.0..1.0_f64, 9..60), far in 1e3..1e9_f64) {
            let plain = scaled_median(&mut own.clone()).expect("some");
            let third = own.len() / 3;
            own.iter_mut().take(third).for_each(|value| *value = far);
            let with = scaled_median(&mut own).expect("some");
            prop_assert!(plain <= 1.4826 && with <= 1.4826, "{plain} {with}");
        }
    }
}
