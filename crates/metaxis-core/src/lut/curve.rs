//! Curves by which light is coded, as they are published, and the colours of screens.

/// Light of a scene, of BT.2100 hybrid log-gamma (Recommendation ITU-R BT.2100-2, table 5); 1 is its brightest.
pub(super) fn hybrid_log(code: f32) -> f32 {
    const A: f32 = 0.178_832_77;
    const B: f32 = 1.0 - 4.0 * A;
    let c = 0.5 - A * (4.0 * A).ln();
    if code <= 0.5 { code * code / 3.0 } else { (((code - c) / A).exp() + B) / 12.0 }
}

/// Light of a screen in cd/m², of perceptual quantisation (SMPTE ST 2084).
pub(super) fn quantised(code: f32) -> f32 {
    const M1: f32 = 2610.0 / 16384.0;
    const M2: f32 = 2523.0 / 32.0;
    const C1: f32 = 3424.0 / 4096.0;
    const C2: f32 = 2413.0 / 128.0;
    const C3: f32 = 2392.0 / 128.0;
    let root = code.max(0.0).powf(1.0 / M2);
    10_000.0 * ((root - C1).max(0.0) / (C2 - C3 * root)).powf(1.0 / M1)
}

/// Light of a scene, of ACEScct (Academy S-2016-001); 0.18 is middle grey.
pub(super) fn acescct(code: f32) -> f32 {
    if code <= 0.155_251_1 {
        (code - 0.072_905_53) / 10.540_237
    } else {
        2.0_f32.powf(code * 17.52 - 9.72).min(65_504.0)
    }
}

/// Light of a scene, of printing density as scanned film codes it in ten bits: 0.002 of density a step, a gamma of 0.6, white at
/// step 685 and black at 95 (SMPTE RP 268 says which steps).
pub(super) fn film_density(code: f32) -> f32 {
    let light = |step: f32| 10.0_f32.powf((step - 685.0) * 0.002 / 0.6);
    let black = light(95.0);
    (light(code * 1023.0) - black) / (1.0 - black)
}

/// The code of a scene's light (Recommendation ITU-R BT.709-6, item 1.2).
pub(super) fn coded(light: f32) -> f32 {
    if light < 0.018 { 4.5 * light } else { 1.099 * light.powf(0.45) - 0.099 }
}

/// The light of a code on a screen (Recommendation ITU-R BT.1886, of a black that is none); 1 is its white.
pub(super) fn shown(code: f32) -> f32 {
    code.max(0.0).powf(2.4)
}

/// The code of light on a screen: the inverse of [`shown`].
pub(super) fn code_of_shown(light: f32) -> f32 {
    light.max(0.0).powf(1.0 / 2.4)
}

/// Light as it is up to six tenths, and from there ever slower towards 1: what is brighter than a screen can show keeps its shape.
pub(super) fn rolled_off(light: f32) -> f32 {
    const KNEE: f32 = 0.6;
    if light <= KNEE { light } else { KNEE + (1.0 - KNEE) * (1.0 - (-(light - KNEE) / (1.0 - KNEE)).exp()) }
}

/// From light in the colours of BT.2020 to those of BT.709 (Recommendation ITU-R BT.2087-0, inverted).
pub(super) const FROM_2020: [[f32; 3]; 3] = [
    [1.660_491, -0.587_641_1, -0.072_849_9],
    [-0.124_550_5, 1.132_899_9, -0.008_349_4],
    [-0.018_150_8, -0.100_578_9, 1.118_729_7],
];

/// From light in the colours of ACES AP1 to those of BT.709, white adapted from D60 to D65 (Academy TB-2014-004, by Bradford).
pub(super) const FROM_AP1: [[f32; 3]; 3] = [
    [1.705_051, -0.621_792_1, -0.083_258_9],
    [-0.130_256_4, 1.140_804_7, -0.010_548_3],
    [-0.024_003_4, -0.128_969, 1.152_972_4],
];

/// Light in other colours.
pub(super) fn by(matrix: &[[f32; 3]; 3], light: [f32; 3]) -> [f32; 3] {
    std::array::from_fn(|i| matrix[i].iter().zip(light).map(|(factor, own)| factor * own).sum())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn is(found: f32, expected: f32) {
        assert!((found - expected).abs() < 1e-3 * expected.abs().max(1.0), "{found} is not {expected}");
    }

    /// Values that the documents themselves give.
    #[test]
    fn curves_are_as_published() {
        // BT.2100: half of the code is a twelfth of the light, and the whole is all of it.
        is(hybrid_log(0.5), 1.0 / 12.0);
        is(hybrid_log(1.0), 1.0);
        // ST 2084: 100 cd/m² at 0.508, 1000 at 0.752, all at 1.
        is(quantised(0.508_08) / 100.0, 1.0);
        is(quantised(0.751_827) / 1000.0, 1.0);
        is(quantised(1.0) / 10_000.0, 1.0);
        is(quantised(0.0), 0.0);
        // S-2016-001: middle grey at 0.4135884, nothing at 0.0729055.
        is(acescct(0.413_588), 0.18);
        is(acescct(0.072_905_53), 0.0);
        is(film_density(685.0 / 1023.0), 1.0);
        is(film_density(95.0 / 1023.0), 0.0);
        is(coded(0.18), 0.409);
        is(coded(1.0), 1.0);
        is(code_of_shown(shown(0.37)), 0.37);
    }

    #[test]
    fn white_stays_white() {
        for matrix in [FROM_2020, FROM_AP1] {
            for own in by(&matrix, [1.0; 3]) {
                is(own, 1.0);
            }
        }
    }

    #[test]
    fn rolling_off_rises_and_stays_below_white() {
        let all: Vec<f32> = (0..400).map(|own| rolled_off(own as f32 / 100.0)).collect();
        assert!(all.windows(2).all(|pair| pair[0] < pair[1] && pair[1] < 1.0));
        is(rolled_off(0.6), 0.6);
        is((rolled_off(0.61) - rolled_off(0.6)) / 0.01, 0.988);
    }
}
