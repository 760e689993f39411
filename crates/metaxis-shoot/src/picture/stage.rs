//! The stage: a foundry floor, a speaker with a slate, six handbells, seen from several places.

use super::code::draw_code;
use crate::{
    scenario::{PicturePlan, Programme, View},
    sound::World,
};
use tiny_skia::{Color, FillRule, Paint, PathBuilder, Pixmap, Rect, Stroke, Transform};

/// A camera's view of a world; the still parts are drawn once.
pub struct Stage<'a> {
    world: &'a World,
    view: View,
    place: Transform,
    still: Pixmap,
}

type Rgb = (u8, u8, u8);
const BRONZE: Rgb = (143, 107, 56);
const BRONZE_RIM: Rgb = (184, 140, 74);
const SKIN: Rgb = (217, 185, 155);
const COAT: Rgb = (50, 64, 74);
const IRON: Rgb = (32, 36, 44);
const SHADE: Rgb = (30, 40, 40);

fn paint((r, g, b): Rgb) -> Paint<'static> {
    let mut paint = Paint::default();
    paint.set_color(Color::from_rgba8(r, g, b, 255));
    paint.anti_alias = true;
    paint
}

fn ground(view: View) -> Rgb {
    match view {
        View::Wide => (59, 74, 78),
        View::Close => (74, 62, 82),
        View::Far => (90, 74, 60),
        View::Low => (51, 70, 58),
        View::Screen => (14, 22, 26),
    }
}

/// From the 640 × 360 stage to the picture.
fn placed(plan: &PicturePlan) -> Transform {
    let fit = plan.width as f32 / 640.0;
    let (zoom, x, y) = match plan.view {
        View::Wide => (1.0, 320.0, 180.0),
        View::Close => (1.75, 380.0, 165.0),
        View::Far => (0.55, 320.0, 160.0),
        View::Low => (1.2, 330.0, 190.0),
        View::Screen => (1.0, 320.0, 180.0),
    };
    let mirror = if plan.view == View::Low { -1.0 } else { 1.0 };
    Transform::from_translate(-x, -y)
        .post_scale(zoom * fit * mirror, zoom * fit)
        .post_translate(320.0 * fit, 180.0 * fit)
}

impl<'a> Stage<'a> {
    /// `None` where the picture has no size.
    pub fn new(world: &'a World, plan: &PicturePlan) -> Option<Self> {
        let mut still = Pixmap::new(plan.width, plan.height)?;
        let (r, g, b) = ground(plan.view);
        still.fill(Color::from_rgba8(r, g, b, 255));
        let mut stage = Self { world, view: plan.view, place: placed(plan), still };
        let mut canvas = stage.still.clone();
        stage.draw_still(&mut canvas);
        stage.still = canvas;
        Some(stage)
    }

    /// The picture at scene time `at_s`, carrying `number`, as RGBA bytes.
    pub fn frame(&self, at_s: f64, number: u64) -> Pixmap {
        let mut canvas = self.still.clone();
        match (self.view, self.world.programme) {
            (View::Screen, _) => self.log(&mut canvas, at_s),
            (_, Programme::Foundry) => self.hammer(&mut canvas, at_s),
            (_, Programme::Talk) => self.speaker(&mut canvas, at_s),
            (_, Programme::Handbells) => self.handbells(&mut canvas, at_s),
            (_, Programme::Quiet | Programme::PlaybackTrack) => self.smoke(&mut canvas, at_s),
        }
        self.slate(&mut canvas, at_s);
        draw_code(&mut canvas, number);
        canvas
    }

    fn draw_still(&self, canvas: &mut Pixmap) {
        if self.view == View::Screen {
            return;
        }
        self.oval(canvas, [320.0, 330.0, 250.0, 40.0], SHADE, Transform::identity());
        match self.world.programme {
            Programme::Foundry => {
                self.bell(canvas, 255.0, 90.0, 1.0, Transform::identity());
                self.block(canvas, [470.0, 190.0, 520.0, 335.0], COAT, Transform::identity());
                self.oval(canvas, [495.0, 165.0, 25.0, 27.0], SKIN, Transform::identity());
            }
            Programme::Talk => {
                self.block(canvas, [270.0, 210.0, 370.0, 345.0], COAT, Transform::identity());
                self.oval(canvas, [320.0, 150.0, 52.0, 62.0], SKIN, Transform::identity());
                for x in [302.0, 338.0] {
                    self.oval(canvas, [x, 138.0, 5.0, 6.0], IRON, Transform::identity());
                }
            }
            Programme::Handbells => {
                self.block(canvas, [70.0, 292.0, 570.0, 306.0], (96, 72, 48), Transform::identity());
            }
            Programme::Quiet | Programme::PlaybackTrack => {
                self.block(canvas, [200.0, 210.0, 440.0, 320.0], (70, 60, 56), Transform::identity());
                self.block(canvas, [380.0, 90.0, 420.0, 210.0], (84, 72, 66), Transform::identity());
            }
        }
    }

    /// An oval about `x`, `y` with two radii.
    fn oval(&self, canvas: &mut Pixmap, [x, y, rx, ry]: [f32; 4], rgb: Rgb, turn: Transform) {
        if let Some(path) = Rect::from_ltrb(x - rx, y - ry, x + rx, y + ry).and_then(PathBuilder::from_oval) {
            canvas.fill_path(&path, &paint(rgb), FillRule::Winding, turn.post_concat(self.place), None);
        }
    }

    /// A rectangle by its left, top, right and bottom.
    fn block(&self, canvas: &mut Pixmap, [left, top, right, bottom]: [f32; 4], rgb: Rgb, turn: Transform) {
        if let Some(rect) = Rect::from_ltrb(left, top, right, bottom) {
            let path = PathBuilder::from_rect(rect);
            canvas.fill_path(&path, &paint(rgb), FillRule::Winding, turn.post_concat(self.place), None);
        }
    }

    fn bell(&self, canvas: &mut Pixmap, x: f32, y: f32, size: f32, turn: Transform) {
        let mut path = PathBuilder::new();
        path.move_to(x - 45.0 * size, y);
        path.line_to(x + 45.0 * size, y);
        path.cubic_to(
            x + 60.0 * size,
            y + 110.0 * size,
            x + 95.0 * size,
            y + 140.0 * size,
            x + 100.0 * size,
            y + 225.0 * size,
        );
        path.line_to(x - 100.0 * size, y + 225.0 * size);
        path.cubic_to(
            x - 95.0 * size,
            y + 140.0 * size,
            x - 60.0 * size,
            y + 110.0 * size,
            x - 45.0 * size,
            y,
        );
        path.close();
        if let Some(path) = path.finish() {
            canvas.fill_path(&path, &paint(BRONZE), FillRule::Winding, turn.post_concat(self.place), None);
        }
        if let Some(ring) = Rect::from_ltrb(x - 22.0 * size, y - 46.0 * size, x + 22.0 * size, y + 2.0 * size)
            .and_then(PathBuilder::from_oval)
        {
            let stroke = Stroke { width: 10.0 * size, ..Stroke::default() };
            canvas.stroke_path(&ring, &paint(BRONZE), &stroke, turn.post_concat(self.place), None);
        }
        self.block(
            canvas,
            [x - 104.0 * size, y + 222.0 * size, x + 104.0 * size, y + 236.0 * size],
            BRONZE_RIM,
            turn,
        );
    }

    /// Seconds to the next hit and since the last one.
    fn around(&self, at_s: f64) -> (f64, f64) {
        let index = self.world.hits.partition_point(|hit| hit.0 <= at_s);
        let next = self.world.hits.get(index).map_or(9.0, |hit| hit.0 - at_s);
        let last = index.checked_sub(1).map_or(9.0, |i| at_s - self.world.hits[i].0);
        (next, last)
    }

    /// The hammer lands when it is heard to land.
    fn hammer(&self, canvas: &mut Pixmap, at_s: f64) {
        let (next, last) = self.around(at_s);
        let raised = if next < 0.12 { next / 0.12 } else { (last / 0.3).min(1.0) };
        let turn = Transform::from_rotate_at((raised * 42.0) as f32, 490.0, 215.0);
        self.block(canvas, [372.0, 205.0, 495.0, 225.0], COAT, turn);
        self.block(canvas, [340.0, 182.0, 380.0, 248.0], IRON, turn);
        let glow = 9.0 + 4.0 * (at_s * 7.0).sin() as f32 * (at_s * 3.1).cos() as f32;
        self.oval(canvas, [90.0, 300.0, glow * 3.0, glow], (206, 110, 44), Transform::identity());
        if last < 0.08 {
            self.oval(canvas, [338.0, 222.0, 9.0, 9.0], (250, 226, 160), Transform::identity());
        }
    }

    /// The mouth moves with the speech.
    fn speaker(&self, canvas: &mut Pixmap, at_s: f64) {
        let open = self.world.mouth.get((at_s * 50.0).max(0.0) as usize).copied().unwrap_or(0.0);
        self.oval(canvas, [320.0, 180.0, 15.0, 2.0 + 11.0 * open], (112, 44, 44), Transform::identity());
        let sway = (at_s * 0.9).sin() as f32 * 6.0;
        self.block(canvas, [240.0 + sway, 240.0, 272.0 + sway, 330.0], COAT, Transform::identity());
    }

    fn handbells(&self, canvas: &mut Pixmap, at_s: f64) {
        for bell in 0..6 {
            let since = self
                .world
                .hits
                .iter()
                .rev()
                .find(|hit| hit.1 == bell && hit.0 <= at_s)
                .map(|hit| at_s - hit.0);
            let swing = since.map_or(0.0, |s| 28.0 * (s * 9.0).cos() * (-2.2 * s).exp()) as f32;
            let x = 110.0 + 84.0 * bell as f32;
            let turn = Transform::from_rotate_at(swing, x, 170.0);
            self.bell(canvas, x, 195.0, 0.34 + 0.02 * (6 - bell) as f32, turn);
            if since.is_some_and(|s| s < 0.1) {
                self.oval(canvas, [x, 165.0, 6.0, 6.0], (250, 226, 160), Transform::identity());
            }
        }
    }

    fn smoke(&self, canvas: &mut Pixmap, at_s: f64) {
        for i in 0..5 {
            let rise = (at_s * 14.0 + f64::from(i) * 18.0) % 90.0;
            let x = 400.0 + (at_s + f64::from(i)).sin() as f32 * 12.0;
            self.oval(
                canvas,
                [x, 88.0 - rise as f32, 10.0 + rise as f32 * 0.2, 7.0],
                (120, 120, 116),
                Transform::identity(),
            );
        }
    }

    /// The sticks close on the clap.
    fn slate(&self, canvas: &mut Pixmap, at_s: f64) {
        let Some(clap) = self.world.claps.iter().find(|clap| (-3.0..0.8).contains(&(at_s - **clap))) else {
            return;
        };
        let to_go = clap - at_s;
        let open = if to_go > 0.12 { 32.0 } else { (to_go.max(0.0) / 0.12 * 32.0) as f32 };
        self.block(canvas, [395.0, 215.0, 525.0, 300.0], (24, 26, 28), Transform::identity());
        for row in 0..3 {
            let y = 240.0 + 18.0 * row as f32;
            self.block(canvas, [405.0, y, 515.0, y + 2.0], (190, 190, 186), Transform::identity());
        }
        let turn = Transform::from_rotate_at(-open, 397.0, 212.0);
        for (i, x) in [395.0, 421.0, 447.0, 473.0, 499.0].into_iter().enumerate() {
            let shade = if i % 2 == 0 { (235, 235, 230) } else { (24, 26, 28) };
            self.block(canvas, [x, 200.0, x + 26.0, 212.0], shade, turn);
        }
    }

    /// A furnace log on a computer screen.
    fn log(&self, canvas: &mut Pixmap, at_s: f64) {
        let line = (at_s * 1.5) as i64;
        for row in 0..12_i64 {
            let length = 120 + ((line + row) * 7919 % 260);
            let y = 30.0 + 24.0 * row as f32;
            self.block(
                canvas,
                [30.0, y, 30.0 + length as f32, y + 8.0],
                (110, 170, 150),
                Transform::identity(),
            );
        }
    }
}

/// A card with a bell on it.
pub fn title_card(width: u32, height: u32) -> Option<Pixmap> {
    let world = World {
        start_s: 0.0,
        sound: vec![],
        hits: vec![],
        claps: vec![],
        mouth: vec![],
        programme: Programme::Handbells,
    };
    let plan = PicturePlan { width, height, rate: 25, varying: false, view: View::Wide };
    let stage = Stage::new(&world, &plan)?;
    let mut canvas = stage.still.clone();
    stage.bell(&mut canvas, 320.0, 70.0, 0.8, Transform::identity());
    Some(canvas)
}
