//! The colors of a setup as variables, and what is asked of them.

use crate::color::{Lab, Oklab, Oklch, Rgb, ciede2000, decode, difference, encode, mix};
use crate::condition::{Conditions, Sight};
use crate::limits;
use crate::look::{Look, Origin, Slots, expr_of};
use crate::role::{RoleId, Slot};
use crate::setup::{Expr, Palette, Setup};

use super::{Request, Wish};

/// A color that can be set.
#[derive(Debug, Clone)]
pub(super) struct Var {
    /// Where it is set.
    pub(super) origin: Origin,
    /// The role that is a mix: its variable is the distance from what is mixed.
    pub(super) is_shift: bool,
    /// Its color at first.
    pub(super) from: Rgb,
    /// The same in OKLCH.
    pub(super) base: Oklch,
    /// Whether it must stay.
    pub(super) locked: bool,
    /// In how many pairs it is drawn.
    pub(super) weight: f64,
}

/// How a drawn color comes about.
#[derive(Debug, Clone, PartialEq)]
pub(super) enum Term {
    /// A variable's own color.
    Var(usize),
    /// A color nobody can move.
    Fixed(Rgb),
    /// A mix in OKLab.
    Mix(Box<Term>, Box<Term>, f64),
    /// Another color, moved by a variable.
    Shift(Box<Term>, usize),
}

impl Term {
    fn variables(&self, out: &mut Vec<usize>) {
        match self {
            Self::Var(i) => out.push(*i),
            Self::Fixed(_) => {}
            Self::Mix(a, b, _) => {
                a.variables(out);
                b.variables(out);
            }
            Self::Shift(inner, i) => {
                inner.variables(out);
                out.push(*i);
            }
        }
    }
}

/// A pair that has to be read: positions of its terms.
#[derive(Debug, Clone)]
pub(super) struct Need {
    pub(super) text: usize,
    pub(super) ground: usize,
    pub(super) target: f64,
    pub(super) sight: Sight,
    pub(super) through: bool,
    /// The variables it hangs on.
    pub(super) variables: Vec<usize>,
    /// The ratio at first.
    pub(super) before: f64,
}

/// Two colors that have to stay apart by a CIEDE2000 difference.
#[derive(Debug, Clone)]
pub(super) struct Apart {
    pub(super) one: usize,
    pub(super) other: usize,
    pub(super) least: f64,
    pub(super) variables: Vec<usize>,
}

impl Glance {
    /// The logarithm of the luminance plus 0.05, as contrast has it.
    pub(super) fn log(&self) -> f64 {
        self.log
    }

    /// The CIE lightness L*, 0–100.
    pub(super) fn lightness(&self) -> f64 {
        self.lab.l
    }
}

/// What hangs on a variable.
#[derive(Debug, Clone, Default)]
pub(super) struct Hangs {
    pub(super) terms: Vec<usize>,
    pub(super) needs: Vec<usize>,
    pub(super) aparts: Vec<usize>,
}

/// A term's color as the search looks at it: linear light as it is seen, the logarithm of its
/// luminance, and CIELAB.
#[derive(Debug, Clone, Copy)]
pub(super) struct Glance {
    linear: [f64; 3],
    log: f64,
    lab: Lab,
}

/// The whole of it.
pub(super) struct Model<'a> {
    pub(super) vars: Vec<Var>,
    pub(super) terms: Vec<Term>,
    pub(super) needs: Vec<Need>,
    pub(super) aparts: Vec<Apart>,
    /// For each wish its need; several wishes may be one need.
    pub(super) need_of: Vec<usize>,
    pub(super) conditions: &'a Conditions,
    /// For each variable the terms, needs and distances that hang on it.
    pub(super) hangs: Vec<Hangs>,
    roles: Vec<RoleId>,
    slots: [usize; 22],
}

/// How far each variable has moved: lightness and chroma.
pub(super) type Moves = Vec<[f64; 2]>;

struct Builder<'a> {
    setup: &'a Setup,
    palette: &'a Palette,
    look: &'a Look,
    vars: Vec<Var>,
}

impl Builder<'_> {
    fn var(&mut self, origin: Origin, from: Rgb, is_shift: bool) -> usize {
        if let Some(i) = self.vars.iter().position(|v| v.origin == origin) {
            return i;
        }
        let name = match &origin {
            Origin::Slot(slot) => slot.key().to_owned(),
            Origin::Named(name) => name.clone(),
            Origin::Role(role) => role.to_string(),
        };
        self.vars.push(Var {
            origin,
            is_shift,
            from,
            base: Oklch::from(from),
            locked: self.palette.locked.contains(&name),
            weight: 0.0,
        });
        self.vars.len() - 1
    }

    fn name(&mut self, name: &str, depth: u8) -> Term {
        if let Some(slot) = Slot::from_key(name) {
            return Term::Var(self.var(Origin::Slot(slot), self.palette.slot(slot), false));
        }
        if let Some((_, color)) = self.palette.colors.iter().find(|(n, _)| n == name) {
            return Term::Var(self.var(Origin::Named(name.to_owned()), *color, false));
        }
        let role = RoleId::new(name);
        let origin = Origin::Role(role.clone());
        match expr_of(self.setup, &role) {
            Some(Expr::Ref(next)) if depth < limits::MIX_DEPTH => self.name(&next, depth + 1),
            Some(Expr::Value(color)) => Term::Var(self.var(origin, color, false)),
            Some(expr @ Expr::Mix(..)) if depth < limits::MIX_DEPTH => {
                let from = self.look.color(&role);
                let i = self.var(origin, from, true);
                if self.vars[i].locked {
                    return Term::Fixed(from);
                }
                Term::Shift(Box::new(self.expr(&expr, depth + 1)), i)
            }
            _ if role.is_ground() => self.name(Slot::Background.key(), depth),
            _ => self.name(Slot::Foreground.key(), depth),
        }
    }

    fn expr(&mut self, expr: &Expr, depth: u8) -> Term {
        match expr {
            Expr::Value(color) => Term::Fixed(*color),
            Expr::Ref(name) => self.name(name, depth),
            Expr::Mix(a, b, t) => {
                let (a, b) = (self.expr(a, depth), self.expr(b, depth));
                Term::Mix(Box::new(a), Box::new(b), *t)
            }
        }
    }
}

impl<'a> Model<'a> {
    pub(super) fn new(request: &Request<'a>) -> Self {
        let (setup, palette) = (request.setup, request.palette);
        let look = Look::with_palette(setup, palette);
        let mut builder = Builder {
            setup,
            palette,
            look: &look,
            vars: Vec::new(),
        };
        let mut model = Self {
            vars: Vec::new(),
            terms: Vec::new(),
            needs: Vec::new(),
            aparts: Vec::new(),
            need_of: Vec::new(),
            conditions: request.conditions,
            hangs: Vec::new(),
            roles: Vec::new(),
            slots: [0; 22],
        };
        for slot in Slot::ALL {
            model.slots[slot as usize] = model.term_of(&RoleId::from(slot), &mut builder);
        }
        for wish in request.wishes {
            model.add_need(wish, &look, &mut builder);
        }
        model.add_aparts(request, &look, &mut builder);
        model.vars = builder.vars;
        for need in &model.needs {
            for variable in &need.variables {
                model.vars[*variable].weight += 1.0;
            }
        }
        for var in &mut model.vars {
            var.weight = var.weight.max(1.0);
        }
        model.hangs = (0..model.vars.len()).map(|v| model.hangs_on(v)).collect();
        model
    }

    fn hangs_on(&self, variable: usize) -> Hangs {
        let with = |variables: &[usize]| variables.contains(&variable);
        let mut out = Hangs::default();
        for (i, term) in self.terms.iter().enumerate() {
            let mut variables = Vec::new();
            term.variables(&mut variables);
            if with(&variables) {
                out.terms.push(i);
            }
        }
        let needs = self.needs.iter().enumerate();
        out.needs = needs
            .filter(|n| with(&n.1.variables))
            .map(|n| n.0)
            .collect();
        let aparts = self.aparts.iter().enumerate();
        out.aparts = aparts
            .filter(|a| with(&a.1.variables))
            .map(|a| a.0)
            .collect();
        out
    }

    fn term_of(&mut self, role: &RoleId, builder: &mut Builder) -> usize {
        if let Some(i) = self.roles.iter().position(|r| r == role) {
            return i;
        }
        let term = builder.name(role.as_str(), 0);
        self.terms.push(term);
        self.roles.push(role.clone());
        self.terms.len() - 1
    }

    /// The term of a role that is drawn.
    pub(super) fn term_named(&self, role: &RoleId) -> Option<&Term> {
        let i = self.roles.iter().position(|r| r == role)?;
        Some(&self.terms[i])
    }

    fn variables_of(&self, terms: [usize; 2]) -> Vec<usize> {
        let mut out = Vec::new();
        for i in terms {
            self.terms[i].variables(&mut out);
        }
        out.sort_unstable();
        out.dedup();
        out
    }

    fn add_need(&mut self, wish: &Wish, look: &Look, builder: &mut Builder) {
        let (text, ground) = (
            self.term_of(&wish.text, builder),
            self.term_of(&wish.ground, builder),
        );
        let sight = Sight {
            text: look.color(&wish.text),
            ground: look.color(&wish.ground),
            fade: wish.fade,
            in_pane: wish.text.stands_in_pane(),
        };
        let through = sight.ground == look.slot(Slot::Background);
        let same = |n: &Need| {
            self.terms[n.text] == self.terms[text]
                && self.terms[n.ground] == self.terms[ground]
                && n.sight.fade == wish.fade
                && n.sight.in_pane == sight.in_pane
                && n.target == wish.target
        };
        if let Some(i) = self.needs.iter().position(same) {
            self.need_of.push(i);
            return;
        }
        self.need_of.push(self.needs.len());
        self.needs.push(Need {
            text,
            ground,
            target: wish.target,
            sight,
            through,
            variables: self.variables_of([text, ground]),
            before: self.conditions.see_on(sight, &look.slots, through).ratio,
        });
    }

    /// The 16 colors keep the distance they have, up to the one below which they are taken for
    /// one another; what means different things gets that distance.
    fn add_aparts(&mut self, request: &Request, look: &Look, builder: &mut Builder) {
        let ansi = |i: u8| Slot::from_ansi(i).map(RoleId::from);
        let mut wanted: Vec<(RoleId, RoleId, bool)> = Vec::new();
        for i in 0..16 {
            for j in i + 1..16 {
                if let (Some(a), Some(b)) = (ansi(i), ansi(j)) {
                    wanted.push((a, b, false));
                }
            }
        }
        if request.meanings {
            wanted.extend(crate::pair::meaning_roles().map(|(one, other)| (one, other, true)));
        }
        for (one, other, means) in wanted {
            let see = |role| self.conditions.vision.see(look.color(role));
            let now = difference(see(&one), see(&other));
            let least = if means {
                crate::pair::TOLD_APART
            } else {
                // What is closer already must not come closer still.
                now.min(crate::pair::TOO_ALIKE)
            };
            if !means && now > 4.0 * crate::pair::TOO_ALIKE {
                continue;
            }
            let (one, other) = (self.term_of(&one, builder), self.term_of(&other, builder));
            if self.terms[one] == self.terms[other] {
                continue;
            }
            self.aparts.push(Apart {
                one,
                other,
                least,
                variables: self.variables_of([one, other]),
            });
        }
    }

    /// A variable's color where it has moved to, inside the gamut of sRGB.
    pub(super) fn moved(&self, i: usize, by: [f64; 2]) -> Oklch {
        in_gamut(shifted(self.vars[i].base, by))
    }

    /// A term's color, exactly.
    pub(super) fn value(&self, term: &Term, moves: &Moves) -> Oklab {
        match term {
            Term::Var(i) => self.moved(*i, moves[*i]).into(),
            Term::Fixed(color) => (*color).into(),
            Term::Mix(a, b, t) => {
                let (a, b) = (self.value(a, moves), self.value(b, moves));
                let lerp = |x: f64, y: f64| x + (y - x) * t;
                Oklab {
                    l: lerp(a.l, b.l),
                    a: lerp(a.a, b.a),
                    b: lerp(a.b, b.b),
                }
            }
            Term::Shift(inner, i) => {
                let inner = self.value(inner, moves);
                if moves[*i] == [0.0; 2] {
                    return inner;
                }
                in_gamut(shifted(inner.into(), moves[*i])).into()
            }
        }
    }

    /// A term's color as it would be written, in 8 bits.
    pub(super) fn written(&self, term: &Term, moves: &Moves) -> Rgb {
        match term {
            Term::Var(i) if moves[*i] == [0.0; 2] => self.vars[*i].from,
            Term::Var(i) => self.moved(*i, moves[*i]).to_rgb(),
            Term::Fixed(color) => *color,
            Term::Mix(a, b, t) => mix(self.written(a, moves), self.written(b, moves), *t),
            Term::Shift(inner, i) => {
                let inner = self.written(inner, moves);
                if moves[*i] == [0.0; 2] {
                    return inner;
                }
                shifted(inner.into(), moves[*i]).to_rgb()
            }
        }
    }

    /// All terms' colors as they would be written.
    pub(super) fn all_written(&self, moves: &Moves) -> Vec<Rgb> {
        self.terms.iter().map(|t| self.written(t, moves)).collect()
    }

    /// The ratio of a need as it would be seen, from the colors of all terms.
    pub(super) fn ratio(&self, need: &Need, colors: &[Rgb]) -> f64 {
        let sight = Sight {
            text: colors[need.text],
            ground: colors[need.ground],
            ..need.sight
        };
        if self.conditions.is_plain() && sight.fade >= 1.0 {
            return crate::color::contrast_ratio(sight.text, sight.ground);
        }
        let slots = Slots(self.slots.map(|i| colors[i]));
        self.conditions.see_on(sight, &slots, need.through).ratio
    }

    /// The difference of two colors as they would be seen.
    pub(super) fn apart(&self, apart: &Apart, colors: &[Rgb]) -> f64 {
        let see = |i: usize| self.conditions.vision.see(colors[i]);
        difference(see(apart.one), see(apart.other))
    }

    /// How a term looks.
    pub(super) fn glance(&self, term: usize, moves: &Moves) -> Glance {
        let linear = self.value(&self.terms[term], moves).to_linear().map(clip);
        let seen = self.conditions.vision.see_linear(linear);
        Glance {
            linear,
            log: log(seen),
            lab: Lab::from_linear(seen),
        }
    }

    /// The logarithm of a need's ratio at its worst place, positive where the text is lighter
    /// (`lighter`) or darker than the ground as wanted, else negative. Without rounding.
    pub(super) fn gap(&self, need: &Need, lighter: bool, text: &Glance, ground: &Glance) -> f64 {
        let sign = if lighter { 1.0 } else { -1.0 };
        let left = self.conditions.left(&need.sight);
        let marks = self.conditions.marks();
        if left >= 1.0 && (marks.is_empty() || !need.through) {
            return sign * (text.log - ground.log);
        }
        let (text, ground) = (text.linear.map(encode), ground.linear.map(encode));
        let over = |top: [f64; 3], t: f64, under: [f64; 3]| {
            std::array::from_fn::<f64, 3, _>(|i| top[i] * t + under[i] * (1.0 - t))
        };
        let see = |color: [f64; 3]| log(self.conditions.vision.see_linear(color.map(decode)));
        let on = |ground: [f64; 3]| sign * (see(over(text, left, ground)) - see(ground));
        let behind = marks.iter().filter(|_| need.through);
        let worst = behind
            .map(|m| {
                let mark = [m.r, m.g, m.b].map(|c| f64::from(c) / 255.0);
                on(over(ground, self.conditions.opacity, mark))
            })
            .min_by(f64::total_cmp);
        worst.unwrap_or_else(|| on(ground))
    }

    /// The difference of two colors, without rounding.
    pub(super) fn distance(one: &Glance, other: &Glance) -> f64 {
        ciede2000(one.lab, other.lab)
    }

    /// How much lighter (L*) the one of two colors was than the other before anything moved.
    pub(super) fn lightness_before(&self, apart: &Apart) -> f64 {
        let still = vec![[0.0; 2]; self.vars.len()];
        let l = |i| self.glance(i, &still).lightness();
        l(apart.one) - l(apart.other)
    }

    /// The slots' colors among those of all terms.
    pub(super) fn slots(&self, colors: &[Rgb]) -> Slots {
        Slots(self.slots.map(|i| colors[i]))
    }
}

/// The logarithm of luminance as contrast has it.
fn log([r, g, b]: [f64; 3]) -> f64 {
    (0.2126 * r + 0.7152 * g + 0.0722 * b + 0.05).ln()
}

fn clip(c: f64) -> f64 {
    c.clamp(0.0, 1.0)
}

fn shifted(from: Oklch, by: [f64; 2]) -> Oklch {
    Oklch {
        l: (from.l + by[0]).clamp(0.0, 1.0),
        c: (from.c + by[1]).max(0.0),
        h: from.h,
    }
}

/// The nearest color of the same lightness and hue that sRGB can show, by giving up chroma.
fn in_gamut(color: Oklch) -> Oklch {
    if color.in_gamut() {
        return color;
    }
    let (mut low, mut high) = (0.0, color.c);
    for _ in 0..14 {
        let c = (low + high) / 2.0;
        if (Oklch { c, ..color }).in_gamut() {
            low = c;
        } else {
            high = c;
        }
    }
    Oklch { c: low, ..color }
}
