//! The colors of a setup as variables, and what is asked of them.

use std::cell::OnceCell;

use foldhash::{HashMap, HashMapExt, HashSet, HashSetExt};

use crate::color::{
    Depth, Lab, Oklab, Oklch, Rgb, ciede2000, ciede2000_at_least, decode, encode, is_shown, mix,
};
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
    /// The way of its hue: green to red, blue to yellow.
    way: [f64; 2],
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
    /// The variable that is this color's own, where it has one.
    pub(super) fn own(&self) -> Option<usize> {
        match self {
            Self::Var(v) | Self::Shift(_, v) => Some(*v),
            Self::Fixed(_) | Self::Mix(..) => None,
        }
    }

    /// The variables it hangs on.
    pub(super) fn variables(&self, out: &mut Vec<usize>) {
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
    /// The roles of its text and its ground.
    roles: [RoleId; 2],
    pub(super) target: f64,
    pub(super) sight: Sight,
    pub(super) through: bool,
    /// Whether it is what can be read now without any condition, and has to stay so.
    pub(super) plain: bool,
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
    /// Whether it is seen without any condition.
    pub(super) plain: bool,
    pub(super) variables: Vec<usize>,
}

impl Glance {
    fn log(&self, plain: bool) -> f64 {
        if plain { self.plain_log } else { self.log }
    }

    fn lab(&self, plain: bool) -> Lab {
        match plain || self.is_plain {
            true => *self.plain_lab.get_or_init(|| Lab::from_linear(self.linear)),
            false => *self.lab.get_or_init(|| Lab::from_linear(self.seen)),
        }
    }

    /// Its channels as sRGB encodes them.
    fn encoded(&self) -> [f64; 3] {
        *self.encoded.get_or_init(|| self.linear.map(encode))
    }

    /// The CIE lightness L*, 0–100.
    pub(super) fn lightness(&self, plain: bool) -> f64 {
        self.lab(plain).l
    }
}

/// What hangs on a variable.
#[derive(Debug, Clone, Default)]
pub(super) struct Hangs {
    pub(super) terms: Vec<usize>,
    pub(super) needs: Vec<usize>,
    pub(super) aparts: Vec<usize>,
}

/// A term's color as the search looks at it: its linear light as it is and with the vision asked for, and
/// the logarithms of its luminance.
#[derive(Debug, Clone)]
pub(super) struct Glance {
    linear: [f64; 3],
    seen: [f64; 3],
    /// Whether it is seen as it is.
    is_plain: bool,
    plain_log: f64,
    log: f64,
    plain_lab: OnceCell<Lab>,
    lab: OnceCell<Lab>,
    encoded: OnceCell<[f64; 3]>,
}

/// The whole of it.
#[derive(Clone)]
pub(super) struct Model<'a> {
    pub(super) vars: Vec<Var>,
    pub(super) terms: Vec<Term>,
    pub(super) needs: Vec<Need>,
    pub(super) aparts: Vec<Apart>,
    /// For each wish its need; several wishes may be one need.
    pub(super) need_of: Vec<usize>,
    pub(super) conditions: &'a Conditions,
    plain: Conditions,
    /// For each variable the terms, needs and distances that hang on it.
    pub(super) hangs: Vec<Hangs>,
    /// For each term the first role whose it is.
    roles: Vec<RoleId>,
    /// The term of each role that is drawn.
    by_role: HashMap<RoleId, usize>,
    slots: [usize; 22],
}

/// The colors of all terms as they are written, with how they look once that was asked.
pub(super) struct Colors {
    written: Vec<Rgb>,
    plain: Vec<OnceCell<Lab>>,
    seen: Vec<OnceCell<Lab>>,
}

impl Colors {
    fn new(written: Vec<Rgb>) -> Self {
        Self {
            plain: vec![OnceCell::new(); written.len()],
            seen: vec![OnceCell::new(); written.len()],
            written,
        }
    }

    pub(super) fn get(&self, term: usize) -> Rgb {
        self.written[term]
    }

    /// Takes a term's color.
    pub(super) fn set(&mut self, term: usize, color: Rgb) {
        if self.written[term] != color {
            self.written[term] = color;
            self.plain[term].take();
            self.seen[term].take();
        }
    }
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
        let base = Oklch::from(from);
        let (b, a) = base.h.to_radians().sin_cos();
        self.vars.push(Var {
            origin,
            is_shift,
            from,
            base,
            way: [a, b],
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
    /// The model of what is asked, seen through conditions.
    pub(super) fn new(request: &Request, conditions: &'a Conditions) -> Self {
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
            conditions,
            plain: Conditions::default(),
            hangs: Vec::new(),
            roles: Vec::new(),
            by_role: HashMap::new(),
            slots: [0; 22],
        };
        for slot in Slot::ALL {
            model.slots[slot as usize] = model.term_of(&RoleId::from(slot), &mut builder);
        }
        for wish in request.wishes {
            let need = model.add_need(wish, false, &look, &mut builder);
            model.need_of.push(need);
        }
        if !request.conditions.is_plain() {
            for wish in request.wishes {
                model.add_need(wish, true, &look, &mut builder);
            }
            // What cannot be read now is no matter without the conditions.
            let can_be_read = |n: &Need| !n.plain || n.before >= n.target;
            model.needs.retain(can_be_read);
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
        model.hangs = model.all_hangs();
        model
    }

    /// What hangs on each variable.
    fn all_hangs(&self) -> Vec<Hangs> {
        let mut out = vec![Hangs::default(); self.vars.len()];
        for (i, term) in self.terms.iter().enumerate() {
            let mut variables = Vec::new();
            term.variables(&mut variables);
            for v in variables {
                if out[v].terms.last() != Some(&i) {
                    out[v].terms.push(i);
                }
            }
        }
        for (i, need) in self.needs.iter().enumerate() {
            need.variables.iter().for_each(|v| out[*v].needs.push(i));
        }
        for (i, apart) in self.aparts.iter().enumerate() {
            apart.variables.iter().for_each(|v| out[*v].aparts.push(i));
        }
        out
    }

    /// The term of a role; those that repeat one color share one.
    fn term_of(&mut self, role: &RoleId, builder: &mut Builder) -> usize {
        if let Some(i) = self.by_role.get(role) {
            return *i;
        }
        let term = builder.name(role.as_str(), 0);
        let same = self.terms.iter().position(|t| *t == term);
        let i = same.unwrap_or_else(|| {
            self.terms.push(term);
            self.roles.push(role.clone());
            self.terms.len() - 1
        });
        self.by_role.insert(role.clone(), i);
        i
    }

    /// The first role of a term.
    pub(super) fn role(&self, term: usize) -> &RoleId {
        &self.roles[term]
    }

    /// The same with some of its needs and distances.
    pub(super) fn limited(&self, needs: &[usize], aparts: &[usize]) -> Self {
        let mut out = Self {
            needs: needs.iter().map(|i| self.needs[*i].clone()).collect(),
            aparts: aparts.iter().map(|i| self.aparts[*i].clone()).collect(),
            vars: self.vars.clone(),
            terms: self.terms.clone(),
            need_of: Vec::new(),
            conditions: self.conditions,
            plain: self.plain.clone(),
            hangs: Vec::new(),
            roles: self.roles.clone(),
            by_role: self.by_role.clone(),
            slots: self.slots,
        };
        out.hangs = out.all_hangs();
        out
    }

    /// The term of a role that is drawn.
    pub(super) fn term_named(&self, role: &RoleId) -> Option<&Term> {
        self.by_role.get(role).map(|i| &self.terms[*i])
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

    /// Adds what a wish asks for, seen through the conditions or plainly; its place among the needs.
    fn add_need(&mut self, wish: &Wish, plain: bool, look: &Look, builder: &mut Builder) -> usize {
        let (text, ground) = (
            self.term_of(&wish.text, builder),
            self.term_of(&wish.ground, builder),
        );
        let sight = Sight {
            text: look.color(&wish.text),
            ground: look.color(&wish.ground),
            fade: wish.fade,
            in_pane: wish.text.stands_in_pane(),
            rounding: wish.rounding,
        };
        let through = sight.ground == look.slot(Slot::Background);
        let same = |n: &Need| {
            n.text == text
                && n.ground == ground
                && n.sight.fade == wish.fade
                && n.sight.in_pane == sight.in_pane
                && (n.sight.rounding == sight.rounding
                    || self.conditions.depth != Depth::Indexed256)
                && n.target == wish.target
                && n.plain == plain
        };
        if let Some(i) = self.needs.iter().position(same) {
            return i;
        }
        let conditions = if plain { &self.plain } else { self.conditions };
        let before = conditions.see_on(sight, &look.slots, through).ratio;
        self.needs.push(Need {
            text,
            ground,
            roles: [wish.text.clone(), wish.ground.clone()],
            target: wish.target,
            sight,
            through,
            plain,
            variables: self.variables_of([text, ground]),
            before,
        });
        self.needs.len() - 1
    }

    /// The 16 colors keep the distance they have, up to the one below which they are taken for
    /// one another, and so do grounds; what means different things gets that distance.
    fn add_aparts(&mut self, request: &Request, look: &Look, builder: &mut Builder) {
        // Roles that repeat one color are one.
        let mut term = |role: &RoleId| self.term_of(role, builder);
        let mut each = |roles: &mut dyn Iterator<Item = RoleId>| {
            let mut out: Vec<usize> = Vec::new();
            for role in roles {
                let term = term(&role);
                if !out.contains(&term) {
                    out.push(term);
                }
            }
            out
        };
        let colors = each(&mut (0..16).filter_map(|i| Slot::from_ansi(i).map(RoleId::from)));
        let grounds = each(&mut grounds(request).into_iter());
        let mut twos: Vec<(usize, usize, Parts)> = Vec::new();
        for (all, parts) in [(colors, Parts::Colors), (grounds, Parts::Grounds)] {
            for (i, one) in all.iter().enumerate() {
                let others = all[i + 1..].iter();
                twos.extend(others.map(|other| (*one, *other, parts)));
            }
        }
        if request.meanings {
            let meant = crate::pair::meaning_roles();
            let meant = meant.map(|(one, other)| (term(&one), term(&other), Parts::Meanings));
            twos.extend(meant.filter(|(one, other, _)| one != other));
        }
        let views: &[bool] = match request.conditions.vision.is_full() {
            true => &[false],
            false => &[false, true],
        };
        let mut there = HashSet::new();
        twos.retain_mut(|(one, other, parts)| {
            (*one, *other) = (*one.min(other), *one.max(other));
            there.insert((*one, *other, *parts))
        });
        for plain in views {
            let see = |color| match plain {
                true => color,
                false => self.conditions.vision.see(color),
            };
            let colors = self.roles.iter().map(|role| see(look.color(role)));
            let labs: Vec<Lab> = colors.map(Lab::from).collect();
            for (one, other, parts) in &twos {
                let (a, b) = (labs[*one], labs[*other]);
                let far = ciede2000_at_least(a, b) > parts.enough();
                let least = match parts {
                    Parts::Meanings if *plain => continue,
                    Parts::Meanings => parts.enough(),
                    _ if far => parts.least(f64::MAX),
                    _ => match (ciede2000(a, b), parts) {
                        // What nobody can tell apart need not be.
                        (now, Parts::Grounds) if now < ALIKE => continue,
                        (now, _) => parts.least(now),
                    },
                };
                self.aparts.push(Apart {
                    one: *one,
                    other: *other,
                    least,
                    plain: *plain,
                    variables: self.variables_of([*one, *other]),
                });
            }
        }
    }

    /// A variable's lightness and chroma where it has moved to, inside the gamut of sRGB.
    pub(super) fn moved(&self, i: usize, by: [f64; 2]) -> [f64; 2] {
        self.there(i, by).0
    }

    /// The same, with its linear light.
    fn there(&self, i: usize, by: [f64; 2]) -> ([f64; 2], [f64; 3]) {
        let var = &self.vars[i];
        let l = (var.base.l + by[0]).clamp(0.0, 1.0);
        let c = (var.base.c + by[1]).max(0.0);
        let linear = |c: f64| on_the_way(var.way, l, c).to_linear();
        let there = linear(c);
        if is_shown(&there) {
            return ([l, c], there);
        }
        let (mut low, mut high) = (0.0, c);
        for _ in 0..12 {
            let c = f64::midpoint(low, high);
            if is_shown(&linear(c)) {
                low = c;
            } else {
                high = c;
            }
        }
        ([l, low], linear(low))
    }

    /// A variable's color at a lightness and chroma.
    pub(super) fn at(&self, i: usize, [l, c]: [f64; 2]) -> Oklab {
        on_the_way(self.vars[i].way, l, c)
    }

    /// A term's color, exactly.
    pub(super) fn value(&self, term: &Term, moves: &Moves) -> Oklab {
        match term {
            Term::Var(i) => self.at(*i, self.moved(*i, moves[*i])),
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
            Term::Var(i) => Rgb::from_linear(self.there(*i, moves[*i]).1),
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
    pub(super) fn all_written(&self, moves: &Moves) -> Colors {
        let all = self.terms.iter().map(|t| self.written(t, moves));
        Colors::new(all.collect())
    }

    /// Brings the colors that hang on a variable to where it is.
    pub(super) fn rewrite(&self, variable: usize, moves: &Moves, colors: &mut Colors) {
        for term in &self.hangs[variable].terms {
            colors.set(*term, self.written(&self.terms[*term], moves));
        }
    }

    /// The ratio of a need as it would be seen, from the colors of all terms.
    pub(super) fn ratio(&self, need: &Need, colors: &Colors) -> f64 {
        let pair = [need.text, need.ground].map(|end| colors.get(end));
        self.ratio_of(need, pair, || self.slots(colors))
    }

    /// The ratio of a need of two colors, as the slots are.
    pub(super) fn ratio_of(
        &self,
        need: &Need,
        [text, ground]: [Rgb; 2],
        slots: impl Fn() -> Slots,
    ) -> f64 {
        let sight = Sight {
            text,
            ground,
            ..need.sight
        };
        let conditions = self.conditions_of(need);
        if conditions.is_plain() && sight.fade >= 1.0 {
            return crate::color::contrast_ratio(sight.text, sight.ground);
        }
        conditions.see_on(sight, &slots(), need.through).ratio
    }

    /// What a need is seen through.
    pub(super) fn conditions_of(&self, need: &Need) -> &Conditions {
        if need.plain {
            &self.plain
        } else {
            self.conditions
        }
    }

    /// Whether two colors would be seen apart by a difference.
    pub(super) fn is_apart(&self, apart: &Apart, colors: &Colors, least: f64) -> bool {
        let [one, other] = self.labs(apart, colors);
        ciede2000_at_least(one, other) >= least || ciede2000(one, other) >= least
    }

    /// How far a distance is from its least.
    pub(super) fn short(&self, apart: usize, colors: &Colors) -> f64 {
        // What was closer at first is to part; the rest is to stay apart.
        let apart = &self.aparts[apart];
        let [one, other] = self.labs(apart, colors);
        if ciede2000_at_least(one, other) >= apart.least {
            return 0.0;
        }
        (apart.least - ciede2000(one, other)).max(0.0)
    }

    /// The difference of two colors as they would be seen.
    pub(super) fn apart(&self, apart: &Apart, colors: &Colors) -> f64 {
        let [one, other] = self.labs(apart, colors);
        ciede2000(one, other)
    }

    fn labs(&self, apart: &Apart, colors: &Colors) -> [Lab; 2] {
        let vision = self.conditions.vision;
        let plain = apart.plain || vision.is_full();
        [apart.one, apart.other].map(|i| match plain {
            true => *colors.plain[i].get_or_init(|| colors.get(i).into()),
            false => *colors.seen[i].get_or_init(|| vision.see(colors.get(i)).into()),
        })
    }

    /// How a term looks.
    pub(super) fn glance(&self, term: usize, moves: &Moves) -> Glance {
        match &self.terms[term] {
            Term::Var(i) => self.glance_in(self.there(*i, moves[*i]).1),
            term => self.glance_of(self.value(term, moves)),
        }
    }

    /// How a color looks.
    pub(super) fn glance_of(&self, color: Oklab) -> Glance {
        self.glance_in(color.to_linear())
    }

    /// How linear light looks.
    fn glance_in(&self, linear: [f64; 3]) -> Glance {
        let linear = linear.map(clip);
        let (seen, plain_log) = (self.conditions.vision.see_linear(linear), log(linear));
        let is_full = self.conditions.vision.is_full();
        Glance {
            linear,
            seen,
            is_plain: is_full,
            plain_lab: OnceCell::new(),
            lab: OnceCell::new(),
            encoded: OnceCell::new(),
            plain_log,
            log: if is_full { plain_log } else { log(seen) },
        }
    }

    /// The logarithm of a need's ratio at its worst place, positive where the text is lighter
    /// (`lighter`) or darker than the ground as wanted, else negative. Without rounding.
    pub(super) fn gap(&self, need: &Need, lighter: bool, text: &Glance, ground: &Glance) -> f64 {
        let sign = if lighter { 1.0 } else { -1.0 };
        let conditions = self.conditions_of(need);
        let left = conditions.left(&need.sight);
        let marks = conditions.marks();
        if left >= 1.0 && (marks.is_empty() || !need.through) {
            return sign * (text.log(need.plain) - ground.log(need.plain));
        }
        let (text, ground) = (text.encoded(), ground.encoded());
        let over = |top: [f64; 3], t: f64, under: [f64; 3]| {
            std::array::from_fn::<f64, 3, _>(|i| top[i] * t + under[i] * (1.0 - t))
        };
        let see = |color: [f64; 3]| log(conditions.vision.see_linear(color.map(decode)));
        let on = |ground: [f64; 3]| sign * (see(over(text, left, ground)) - see(ground));
        let behind = marks.iter().filter(|_| need.through);
        let worst = behind
            .map(|m| {
                let mark = [m.r, m.g, m.b].map(|c| f64::from(c) / 255.0);
                on(over(ground, conditions.opacity, mark))
            })
            .min_by(f64::total_cmp);
        worst.unwrap_or_else(|| on(ground))
    }

    /// A bound of the difference of two colors from below, which is quick.
    pub(super) fn distance_at_least(plain: bool, one: &Glance, other: &Glance) -> f64 {
        ciede2000_at_least(one.lab(plain), other.lab(plain))
    }

    /// The difference of two colors, without rounding.
    pub(super) fn distance(plain: bool, one: &Glance, other: &Glance) -> f64 {
        ciede2000(one.lab(plain), other.lab(plain))
    }

    /// Which of the demands of another it holds, as it is: what can be read plainly, and distances, as they are
    /// asked for and as they were.
    pub(super) fn holds(&self, first: &Model<'_>) -> Vec<bool> {
        let still = |model: &Model<'_>| model.all_written(&vec![[0.0; 2]; model.vars.len()]);
        let (before, now) = (still(first), still(self));
        // The colors of the other's roles as they are here.
        let of = |role: &RoleId| match self.by_role.get(role) {
            Some(term) => now.get(*term),
            None => before.get(first.by_role[role]),
        };
        let here = Colors::new(first.roles.iter().map(of).collect());
        let plain = first.needs.iter().filter(|n| n.plain);
        let met = plain.map(|n| {
            let [text, ground] = &n.roles;
            first.ratio_of(n, [of(text), of(ground)], || first.slots(&here)) >= n.target
        });
        let apart = first.aparts.iter().flat_map(|a| {
            let was = a.least.min(first.apart(a, &before) - 1e-9);
            [a.least, was].map(|least| first.is_apart(a, &here, least))
        });
        met.chain(apart).collect()
    }

    /// The variable of the terminal's own ground.
    pub(super) fn background(&self) -> Option<usize> {
        self.terms[self.slots[Slot::Background as usize]].own()
    }

    /// The slots' colors among those of all terms.
    pub(super) fn slots(&self, colors: &Colors) -> Slots {
        Slots(self.slots.map(|i| colors.get(i)))
    }
}

/// The CIEDE2000 difference below which two areas look the same.
const ALIKE: f64 = 1.0;

/// Why two colors have to stay apart.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
enum Parts {
    /// Two of the 16.
    Colors,
    /// Two grounds.
    Grounds,
    /// What means different things.
    Meanings,
}

impl Parts {
    /// The distance that is enough.
    fn enough(self) -> f64 {
        match self {
            Self::Colors => crate::pair::TOO_ALIKE,
            Self::Grounds => crate::pair::GROUNDS_APART,
            Self::Meanings => crate::pair::TOLD_APART,
        }
    }

    /// The distance that is kept of the one there is: in steps, since it is a convention and a fifth of what can
    /// be seen is no reason to give a repair up, and so that one repair after another does not lose as much
    /// again.
    fn least(self, now: f64) -> f64 {
        const STEP: f64 = 0.2;
        let enough = self.enough() - STEP / 2.0;
        if now >= enough {
            enough
        } else {
            (now / STEP).floor() * STEP
        }
    }
}

/// The grounds that something is drawn on, or that the setup gives a color.
fn grounds(request: &Request) -> Vec<RoleId> {
    let drawn = request.wishes.iter().map(|w| w.ground.clone());
    let said = request
        .setup
        .roles
        .keys()
        .filter(|r| r.is_ground())
        .cloned();
    let slots = [Slot::Background, Slot::Selection].map(RoleId::from);
    let mut all: Vec<RoleId> = slots.into_iter().chain(drawn).chain(said).collect();
    all.sort_unstable();
    all.dedup();
    all
}

/// The logarithm of luminance as contrast has it.
fn log([r, g, b]: [f64; 3]) -> f64 {
    (0.2126 * r + 0.7152 * g + 0.0722 * b + 0.05).ln()
}

fn clip(c: f64) -> f64 {
    c.clamp(0.0, 1.0)
}

/// A color of a hue.
fn on_the_way(way: [f64; 2], l: f64, c: f64) -> Oklab {
    Oklab {
        l,
        a: c * way[0],
        b: c * way[1],
    }
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
