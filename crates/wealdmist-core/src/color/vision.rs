//! Color-vision deficiencies: what a color looks like to a person who has one, and on a
//! grayscale screen.
//!
//! Matrices on linear sRGB by severity 0.0 to 1.0 in steps of 0.1 from G. M. Machado, M. M.
//! Oliveira, L. A. F. Fernandes, "A Physiologically-based Model for Simulation of Color Vision
//! Deficiency", IEEE TVCG 15(6), 2009; severities between two steps are interpolated, as the
//! authors propose. They stand for partial forms (anomalies) up to the full one (1.0).

use super::Rgb;

/// How a person, or a screen, sees color.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub enum Vision {
    /// Without a deficiency.
    #[default]
    Full,
    /// A lack of long-wave cones, by severity 0–1: protanomaly to protanopia.
    Protan(f64),
    /// A lack of middle-wave cones, by severity 0–1: deuteranomaly to deuteranopia.
    Deutan(f64),
    /// A lack of short-wave cones, by severity 0–1: tritanomaly to tritanopia.
    Tritan(f64),
    /// A screen, or a print, without color.
    Gray,
}

impl Vision {
    /// The full deficiencies and the grayscale screen, after full vision.
    pub const ALL: [Self; 5] = [
        Self::Full,
        Self::Protan(1.0),
        Self::Deutan(1.0),
        Self::Tritan(1.0),
        Self::Gray,
    ];

    /// The name people know it by.
    #[must_use]
    pub fn label(self) -> String {
        let partial = |name: &str, severity: f64| {
            if severity >= 1.0 {
                format!("{name}opia")
            } else {
                format!("{name}omaly {:.0}%", severity * 100.0)
            }
        };
        match self {
            Self::Full => "full color vision".to_owned(),
            Self::Protan(s) => partial("protan", s),
            Self::Deutan(s) => partial("deuteran", s),
            Self::Tritan(s) => partial("tritan", s),
            Self::Gray => "grayscale".to_owned(),
        }
    }

    /// Whether colors look as they are.
    #[must_use]
    pub fn is_full(self) -> bool {
        match self {
            Self::Full => true,
            Self::Protan(s) | Self::Deutan(s) | Self::Tritan(s) => s <= 0.0,
            Self::Gray => false,
        }
    }

    /// The matrix on linear sRGB channels; a severity outside 0–1 is clipped.
    #[must_use]
    pub fn matrix(self) -> [[f64; 3]; 3] {
        let (table, severity) = match self {
            Self::Full => return IDENTITY,
            Self::Gray => return [LUMINANCE; 3],
            Self::Protan(s) => (&PROTAN, s),
            Self::Deutan(s) => (&DEUTAN, s),
            Self::Tritan(s) => (&TRITAN, s),
        };
        let at = severity.clamp(0.0, 1.0) * 10.0;
        let low = at.floor() as usize;
        let part = at - low as f64;
        if part == 0.0 {
            return table[low];
        }
        let mix = |r: usize, c: usize| {
            table[low][r][c] + (table[low + 1][r][c] - table[low][r][c]) * part
        };
        std::array::from_fn(|r| std::array::from_fn(|c| mix(r, c)))
    }

    /// Linear sRGB channels as they are seen, clipped to 0–1.
    #[must_use]
    pub fn see_linear(self, linear: [f64; 3]) -> [f64; 3] {
        if self.is_full() {
            return linear;
        }
        self.matrix().map(|row| {
            (0..3)
                .map(|i| row[i] * linear[i])
                .sum::<f64>()
                .clamp(0.0, 1.0)
        })
    }

    /// A color as it is seen.
    #[must_use]
    pub fn see(self, color: Rgb) -> Rgb {
        if self.is_full() {
            return color;
        }
        Rgb::from_linear(self.see_linear(color.to_linear()))
    }
}

const IDENTITY: [[f64; 3]; 3] = [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]];
/// The weights of relative luminance.
const LUMINANCE: [f64; 3] = [0.2126, 0.7152, 0.0722];

#[rustfmt::skip]
const PROTAN: [[[f64; 3]; 3]; 11] = [
    [[1.000_000, 0.0, 0.0], [0.0, 1.000_000, 0.0], [0.0, 0.0, 1.000_000]],
    [[0.856_167, 0.182_038, -0.038_205], [0.029_342, 0.955_115, 0.015_544], [-0.002_880, -0.001_563, 1.004_443]],
    [[0.734_766, 0.334_872, -0.069_637], [0.051_840, 0.919_198, 0.028_963], [-0.004_928, -0.004_209, 1.009_137]],
    [[0.630_323, 0.465_641, -0.095_964], [0.069_181, 0.890_046, 0.040_773], [-0.006_308, -0.007_724, 1.014_032]],
    [[0.539_009, 0.579_343, -0.118_352], [0.082_546, 0.866_121, 0.051_332], [-0.007_136, -0.011_959, 1.019_095]],
    [[0.458_064, 0.679_578, -0.137_642], [0.092_785, 0.846_313, 0.060_902], [-0.007_494, -0.016_807, 1.024_301]],
    [[0.385_450, 0.769_005, -0.154_455], [0.100_526, 0.829_802, 0.069_673], [-0.007_442, -0.022_190, 1.029_632]],
    [[0.319_627, 0.849_633, -0.169_261], [0.106_241, 0.815_969, 0.077_790], [-0.007_025, -0.028_051, 1.035_076]],
    [[0.259_411, 0.923_008, -0.182_420], [0.110_296, 0.804_340, 0.085_364], [-0.006_276, -0.034_346, 1.040_622]],
    [[0.203_876, 0.990_338, -0.194_214], [0.112_975, 0.794_542, 0.092_483], [-0.005_222, -0.041_043, 1.046_265]],
    [[0.152_286, 1.052_583, -0.204_868], [0.114_503, 0.786_281, 0.099_216], [-0.003_882, -0.048_116, 1.051_998]],
];

#[rustfmt::skip]
const DEUTAN: [[[f64; 3]; 3]; 11] = [
    [[1.000_000, 0.0, 0.0], [0.0, 1.000_000, 0.0], [0.0, 0.0, 1.000_000]],
    [[0.866_435, 0.177_704, -0.044_139], [0.049_567, 0.939_063, 0.011_370], [-0.003_453, 0.007_233, 0.996_220]],
    [[0.760_729, 0.319_078, -0.079_807], [0.090_568, 0.889_315, 0.020_117], [-0.006_027, 0.013_325, 0.992_702]],
    [[0.675_425, 0.433_850, -0.109_275], [0.125_303, 0.847_755, 0.026_942], [-0.007_950, 0.018_572, 0.989_378]],
    [[0.605_511, 0.528_560, -0.134_071], [0.155_318, 0.812_366, 0.032_316], [-0.009_376, 0.023_176, 0.986_200]],
    [[0.547_494, 0.607_765, -0.155_259], [0.181_692, 0.781_742, 0.036_566], [-0.010_410, 0.027_275, 0.983_136]],
    [[0.498_864, 0.674_741, -0.173_604], [0.205_199, 0.754_872, 0.039_929], [-0.011_131, 0.030_969, 0.980_162]],
    [[0.457_771, 0.731_899, -0.189_670], [0.226_409, 0.731_012, 0.042_579], [-0.011_595, 0.034_333, 0.977_261]],
    [[0.422_823, 0.781_057, -0.203_881], [0.245_752, 0.709_602, 0.044_646], [-0.011_843, 0.037_423, 0.974_421]],
    [[0.392_952, 0.823_610, -0.216_562], [0.263_559, 0.690_210, 0.046_232], [-0.011_910, 0.040_281, 0.971_630]],
    [[0.367_322, 0.860_646, -0.227_968], [0.280_085, 0.672_501, 0.047_413], [-0.011_820, 0.042_940, 0.968_881]],
];

#[rustfmt::skip]
const TRITAN: [[[f64; 3]; 3]; 11] = [
    [[1.000_000, 0.0, 0.0], [0.0, 1.000_000, 0.0], [0.0, 0.0, 1.000_000]],
    [[0.926_670, 0.092_514, -0.019_184], [0.021_191, 0.964_503, 0.014_306], [0.008_437, 0.054_813, 0.936_750]],
    [[0.895_720, 0.133_330, -0.029_050], [0.029_997, 0.945_400, 0.024_603], [0.013_027, 0.104_707, 0.882_266]],
    [[0.905_871, 0.127_791, -0.033_662], [0.026_856, 0.941_251, 0.031_893], [0.013_410, 0.148_296, 0.838_294]],
    [[0.948_035, 0.089_490, -0.037_526], [0.014_364, 0.946_792, 0.038_844], [0.010_853, 0.193_991, 0.795_156]],
    [[1.017_277, 0.027_029, -0.044_306], [-0.006_113, 0.958_479, 0.047_634], [0.006_379, 0.248_708, 0.744_913]],
    [[1.104_996, -0.046_633, -0.058_363], [-0.032_137, 0.971_635, 0.060_503], [0.001_336, 0.317_922, 0.680_742]],
    [[1.193_214, -0.109_812, -0.083_402], [-0.058_496, 0.979_410, 0.079_086], [-0.002_346, 0.403_492, 0.598_854]],
    [[1.257_728, -0.139_648, -0.118_081], [-0.078_003, 0.975_409, 0.102_594], [-0.003_316, 0.501_214, 0.502_102]],
    [[1.278_864, -0.125_333, -0.153_531], [-0.084_748, 0.957_674, 0.127_074], [-0.000_989, 0.601_151, 0.399_838]],
    [[1.255_528, -0.076_749, -0.178_779], [-0.078_411, 0.930_809, 0.147_602], [0.004_733, 0.691_367, 0.303_900]],
];

#[cfg(test)]
mod tests {
    use super::*;
    use crate::color::{difference, relative_luminance};
    use proptest::prelude::*;

    #[test]
    fn red_and_green_of_one_lightness_are_confused_where_they_should_be() {
        let (red, green) = (Rgb::from_u32(0xb0_5a3c), Rgb::from_u32(0x74_7a30));
        let apart = |v: Vision| difference(v.see(red), v.see(green));
        assert!(apart(Vision::Full) > 30.0);
        assert!(apart(Vision::Deutan(1.0)) < 12.0);
        assert!(apart(Vision::Deutan(1.0)) < apart(Vision::Deutan(0.4)));
        assert!(apart(Vision::Tritan(1.0)) > apart(Vision::Deutan(1.0)));
    }

    #[test]
    fn severities_between_two_steps_lie_between_them() {
        let m = |s| Vision::Protan(s).matrix()[0][0];
        assert!((m(0.35) - (0.630_323 + 0.539_009) / 2.0).abs() < 1e-9);
        assert_eq!(m(-3.0), 1.0);
        assert_eq!(m(9.0), m(1.0));
    }

    proptest! {
        #[test]
        fn white_black_and_grays_stay(g in 0u8..=255) {
            let gray = Rgb::new(g, g, g);
            for vision in Vision::ALL {
                let seen = vision.see(gray);
                for c in [seen.r, seen.g, seen.b] {
                    prop_assert!(c.abs_diff(g) <= 1, "{vision:?} {gray} {seen}");
                }
            }
        }

        #[test]
        fn a_gray_screen_keeps_luminance(v in 0u32..0x100_0000) {
            let color = Rgb::from_u32(v);
            let seen = Vision::Gray.see(color);
            prop_assert!((relative_luminance(seen) - relative_luminance(color)).abs() < 0.005);
        }
    }
}
