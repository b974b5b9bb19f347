//! Formulas: plain arithmetic over dials, as in a schoolbook, with GLSL's names for functions.
//!
//! Documents keep a formula with its dials by id, in braces: `mix(0.2, 0.9, {d1}) * {d4}`. The artist reads and writes the same text with labels in the place
//! of ids ([`Formula::renamed`]); what can't be mistaken needs no braces there. All functions are libm's, so that bytes agree on every machine.

use std::ops::Range;

use serde::{Deserialize, Serialize};
use ts_rs::TS;
use winnow::combinator::{Infix, Prefix, alt, cut_err, delimited, expression, fail, opt, preceded, separated};
use winnow::error::{ErrMode, ParserError};
use winnow::prelude::*;
use winnow::stream::{LocatingSlice, Location, Stream};
use winnow::token::{literal, take_while};

/// How long a formula may be, in bytes.
pub const LONGEST: usize = 400;
/// How many parentheses may be open at once.
pub const DEEPEST: usize = 32;

/// What is wrong with a formula, and where.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS, thiserror::Error)]
#[error("{why}.")]
pub struct FormulaError {
    /// Where it begins, in UTF-16 units of the text.
    pub at: usize,
    /// How many units of the text it is about; 0 where something is missing.
    pub length: usize,
    /// What is wrong and what would be right, without the full stop.
    pub why: String,
}

/// A function that formulas may call.
pub struct Function {
    /// GLSL's name for it.
    pub name: &'static str,
    /// What it takes, as it is shown.
    pub takes: &'static str,
    /// One sentence of help.
    pub help: &'static str,
    /// The fewest and the most values that it takes.
    arity: (usize, usize),
    work: fn(&[f64]) -> f64,
}

const fn function(
    name: &'static str,
    takes: &'static str,
    arity: (usize, usize),
    help: &'static str,
    work: fn(&[f64]) -> f64,
) -> Function {
    Function { name, takes, help, arity, work }
}

const ONE: (usize, usize) = (1, 1);
const TWO: (usize, usize) = (2, 2);
const THREE: (usize, usize) = (3, 3);
const MANY: (usize, usize) = (2, 16);

/// All of them; definitions as in the OpenGL Shading Language 4.60, chapter 8.
pub static FUNCTIONS: &[Function] =
    &[
        function("min", "a, b, …", MANY, "The least of them.", |v| v.iter().copied().fold(v[0], f64::min)),
        function("max", "a, b, …", MANY, "The greatest of them.", |v| v.iter().copied().fold(v[0], f64::max)),
        function("clamp", "x, low, high", THREE, "x, but no less than low and no more than high.", |v| {
            v[0].max(v[1]).min(v[2])
        }),
        function("mix", "a, b, t", THREE, "From a where t is 0 to b where it is 1, evenly.", |v| {
            v[0] * (1.0 - v[2]) + v[1] * v[2]
        }),
        function("step", "edge, x", TWO, "0 where x is below the edge, 1 from there on.", |v| f64::from(v[1] >= v[0])),
        function("smoothstep", "from, to, x", THREE, "0 up to from, 1 beyond to, a soft way between.", |v| {
            let t = ((v[2] - v[0]) / (v[1] - v[0])).clamp(0.0, 1.0);
            t * t * (3.0 - 2.0 * t)
        }),
        function("abs", "x", ONE, "x without its sign.", |v| v[0].abs()),
        function("sign", "x", ONE, "−1, 0 or 1.", |v| if v[0] == 0.0 { 0.0 } else { v[0].signum() }),
        function("floor", "x", ONE, "The whole number at or below x.", |v| libm::floor(v[0])),
        function("ceil", "x", ONE, "The whole number at or above x.", |v| libm::ceil(v[0])),
        function("round", "x", ONE, "The nearest whole number.", |v| libm::round(v[0])),
        function("fract", "x", ONE, "What x has beyond the whole number below it.", |v| v[0] - libm::floor(v[0])),
        function("mod", "x, y", TWO, "What is left of x after whole times y.", |v| {
            v[0] - v[1] * libm::floor(v[0] / v[1])
        }),
        function("pow", "x, y", TWO, "x to the power of y, as x ^ y.", |v| libm::pow(v[0], v[1])),
        function("sqrt", "x", ONE, "The square root.", |v| libm::sqrt(v[0])),
        function("exp", "x", ONE, "e to the power of x.", |v| libm::exp(v[0])),
        function("exp2", "x", ONE, "2 to the power of x.", |v| libm::exp2(v[0])),
        function("log", "x", ONE, "The natural logarithm.", |v| libm::log(v[0])),
        function("log2", "x", ONE, "The logarithm to base 2.", |v| libm::log2(v[0])),
        function("sin", "x", ONE, "The sine of an angle in radians.", |v| libm::sin(v[0])),
        function("cos", "x", ONE, "The cosine of an angle in radians.", |v| libm::cos(v[0])),
        function("tan", "x", ONE, "The tangent of an angle in radians.", |v| libm::tan(v[0])),
        function("asin", "x", ONE, "The angle of that sine, in radians.", |v| libm::asin(v[0])),
        function("acos", "x", ONE, "The angle of that cosine, in radians.", |v| libm::acos(v[0])),
        function("atan", "y, x", (1, 2), "The angle of that slope, in radians; of y over x if both are given.", |v| {
            match v {
                [y, x] => libm::atan2(*y, *x),
                _ => libm::atan(v[0]),
            }
        }),
        function("radians", "x", ONE, "An angle in degrees as radians.", |v| v[0].to_radians()),
        function("degrees", "x", ONE, "An angle in radians as degrees.", |v| v[0].to_degrees()),
    ];

/// The one name of a number.
const PI: &str = "pi";

/// A formula that was read.
#[derive(Debug, Clone)]
pub struct Formula {
    text: String,
    root: Node,
}

#[derive(Debug, Clone)]
enum Node {
    Number(f64),
    /// A dial, by what stands in the text, and the bytes that say it there, braces included.
    Dial(String, Range<usize>),
    Negative(Box<Node>),
    Two(Operator, Box<[Node; 2]>),
    Call(usize, Vec<Node>),
}

#[derive(Debug, Clone, Copy)]
enum Operator {
    Add,
    Subtract,
    Multiply,
    Divide,
    Power,
    Less,
    LessOrSame,
    Greater,
    GreaterOrSame,
    Same,
    Other,
}

impl Operator {
    fn work(self, a: f64, b: f64) -> f64 {
        match self {
            Operator::Add => a + b,
            Operator::Subtract => a - b,
            Operator::Multiply => a * b,
            Operator::Divide => a / b,
            Operator::Power => libm::pow(a, b),
            Operator::Less => f64::from(a < b),
            Operator::LessOrSame => f64::from(a <= b),
            Operator::Greater => f64::from(a > b),
            Operator::GreaterOrSame => f64::from(a >= b),
            Operator::Same => f64::from(a == b),
            Operator::Other => f64::from(a != b),
        }
    }
}

impl Formula {
    /// Reads a formula.
    ///
    /// # Errors
    /// [`FormulaError`] with the place: no dial is looked up yet.
    pub fn read(text: &str) -> Result<Formula, FormulaError> {
        within_limits(text)?;
        let mut input = LocatingSlice::new(text);
        let root = sum(&mut input).map_err(|e| match e {
            ErrMode::Backtrack(e) | ErrMode::Cut(e) => error(text, e.bytes, e.why),
            ErrMode::Incomplete(_) => unreachable!("a text is all there"),
        })?;
        let at = input.current_token_start();
        match text[at..].chars().next() {
            None => Ok(Formula { text: text.into(), root }),
            Some(c) => {
                let why = format!("“{c}” can't stand here: an operator or the end of the formula is expected");
                Err(error(text, at..at + c.len_utf8(), why))
            }
        }
    }

    /// What the dials are called in it, in the order in which they stand there, each with its bytes in the text.
    fn names(&self) -> Vec<(&str, Range<usize>)> {
        let mut out = vec![];
        self.root.names(&mut out);
        out
    }

    /// The dials that it names, as they are named.
    pub fn dials(&self) -> impl Iterator<Item = &str> {
        self.names().into_iter().map(|n| n.0)
    }

    /// The text with what `to` says in the place of each dial. What it says stands as it is: braces are its own affair.
    ///
    /// # Errors
    /// What `to` says is wrong with a name, with the place of the name.
    pub fn renamed(&self, to: &dyn Fn(&str) -> Result<String, String>) -> Result<String, FormulaError> {
        let (mut out, mut end) = (String::new(), 0);
        for (name, bytes) in self.names() {
            let new = to(name).map_err(|why| error(&self.text, bytes.clone(), why))?;
            out.push_str(&self.text[end..bytes.start]);
            out.push_str(&new);
            end = bytes.end;
        }
        out.push_str(&self.text[end..]);
        Ok(out)
    }

    /// Its value, which may be infinite or no number. `None` where a dial has no number.
    pub fn value(&self, dial: &dyn Fn(&str) -> Option<f64>) -> Option<f64> {
        self.root.value(dial)
    }
}

impl Node {
    fn names<'a>(&'a self, out: &mut Vec<(&'a str, Range<usize>)>) {
        match self {
            Node::Number(_) => {}
            Node::Dial(name, bytes) => out.push((name, bytes.clone())),
            Node::Negative(x) => x.names(out),
            Node::Two(_, both) => both.iter().for_each(|x| x.names(out)),
            Node::Call(_, all) => all.iter().for_each(|x| x.names(out)),
        }
    }

    fn value(&self, dial: &dyn Fn(&str) -> Option<f64>) -> Option<f64> {
        Some(match self {
            Node::Number(n) => *n,
            Node::Dial(name, _) => dial(name)?,
            Node::Negative(x) => -x.value(dial)?,
            Node::Two(operator, both) => operator.work(both[0].value(dial)?, both[1].value(dial)?),
            Node::Call(f, all) => {
                let values: Option<Vec<f64>> = all.iter().map(|x| x.value(dial)).collect();
                (FUNCTIONS[*f].work)(&values?)
            }
        })
    }
}

/// A dial's label as it is written in a formula: as it is where it can't be mistaken for anything else, in braces otherwise.
pub fn written(label: &str) -> String {
    let plain = label.chars().all(is_of_name) && label.chars().next().is_some_and(begins_name);
    let taken = label == PI || FUNCTIONS.iter().any(|f| f.name == label);
    if plain && !taken { label.into() } else { braced(label) }
}

/// A name in braces.
pub fn braced(name: &str) -> String {
    format!("{{{name}}}")
}

fn begins_name(c: char) -> bool {
    c.is_alphabetic() || c == '_'
}

fn is_of_name(c: char) -> bool {
    c.is_alphanumeric() || c == '_'
}

fn error(text: &str, bytes: Range<usize>, why: String) -> FormulaError {
    let units = |part: &str| part.encode_utf16().count();
    FormulaError { at: units(&text[..bytes.start]), length: units(&text[bytes]), why }
}

/// The parser follows what stands within each other, so how long and how deep a text may be is bounded before it begins.
fn within_limits(text: &str) -> Result<(), FormulaError> {
    if text.len() > LONGEST {
        let why = format!("A formula has at most {LONGEST} characters; this one has {}", text.chars().count());
        return Err(error(text, 0..0, why));
    }
    let mut open = 0usize;
    for (at, c) in text.char_indices() {
        match c {
            '(' => open += 1,
            ')' => open = open.saturating_sub(1),
            _ => {}
        }
        if open > DEEPEST {
            let why =
                format!("More than {DEEPEST} parentheses are open here. Let a dial of its own follow a part of this");
            return Err(error(text, at..at + 1, why));
        }
    }
    Ok(())
}

/// What went wrong while reading.
#[derive(Debug)]
struct Wrong {
    bytes: Range<usize>,
    why: String,
}

impl Wrong {
    fn cut<T>(bytes: Range<usize>, why: impl Into<String>) -> ModalResult<T, Wrong> {
        Err(ErrMode::Cut(Wrong { bytes, why: why.into() }))
    }
}

type In<'a> = LocatingSlice<&'a str>;

impl ParserError<In<'_>> for Wrong {
    type Inner = Self;

    fn from_input(input: &In) -> Self {
        let at = input.current_token_start();
        Wrong { bytes: at..at, why: "Here a number, a dial or a function is missing".into() }
    }

    fn into_inner(self) -> Result<Self, Self> {
        Ok(self)
    }
}

fn blank(input: &mut In) -> ModalResult<(), Wrong> {
    take_while(0.., char::is_whitespace).void().parse_next(input)
}

/// Operators and parentheses as they are written, and as they are set in print.
fn sum(input: &mut In) -> ModalResult<Node, Wrong> {
    use Infix::{Left, Neither, Right};
    use Operator as O;
    macro_rules! two {
        ($operator:expr) => {
            |_: &mut _, a, b| Ok(Node::Two($operator, Box::new([a, b])))
        };
    }
    let compare = alt((
        alt(("<=", "≤")).value(Neither(1, two!(O::LessOrSame))),
        alt((">=", "≥")).value(Neither(1, two!(O::GreaterOrSame))),
        alt(("!=", "≠")).value(Neither(1, two!(O::Other))),
        alt(("==", "=")).value(Neither(1, two!(O::Same))),
        '<'.value(Neither(1, two!(O::Less))),
        '>'.value(Neither(1, two!(O::Greater))),
    ));
    let arithmetic = alt((
        '+'.value(Left(3, two!(O::Add))),
        alt(('-', '−')).value(Left(3, two!(O::Subtract))),
        alt(('*', '·', '×')).value(Left(5, two!(O::Multiply))),
        alt(('/', '÷')).value(Left(5, two!(O::Divide))),
        '^'.value(Right(9, two!(O::Power))),
    ));
    let sign = alt((
        alt(('-', '−')).value(Prefix(7, |_: &mut _, a| Ok(Node::Negative(Box::new(a))))),
        '+'.value(Prefix(7, |_: &mut _, a| Ok(a))),
    ));
    // What is neither an operand nor a sign before one can't be anything else.
    let expression = expression(operand).prefix(cut_err(delimited(blank, sign, blank))).infix(delimited(
        blank,
        alt((compare, arithmetic)),
        blank,
    ));
    delimited(blank, expression, blank).parse_next(input)
}

fn operand(input: &mut In) -> ModalResult<Node, Wrong> {
    alt((number, in_parentheses, in_braces, named)).parse_next(input)
}

fn number(input: &mut In) -> ModalResult<Node, Wrong> {
    let digits = |n| take_while(n.., '0'..='9');
    let mantissa = alt(((digits(1), opt(('.', digits(0)))).void(), ('.', digits(1)).void()));
    let power = (alt(('e', 'E')), opt(alt(('+', '-'))), digits(1));
    (mantissa, opt(power)).take().parse_to().map(Node::Number).parse_next(input)
}

fn in_parentheses(input: &mut In) -> ModalResult<Node, Wrong> {
    let open = input.current_token_start();
    let inner = preceded('(', sum).parse_next(input)?;
    closed(input, open)?;
    Ok(inner)
}

fn closed(input: &mut In, open: usize) -> ModalResult<(), Wrong> {
    if opt(literal(")")).parse_next(input)?.is_none() {
        return Wrong::cut(open..open + 1, "The parenthesis that opens here is not closed");
    }
    Ok(())
}

fn in_braces(input: &mut In) -> ModalResult<Node, Wrong> {
    let open = input.current_token_start();
    let name = preceded('{', take_while(0.., |c| c != '{' && c != '}')).parse_next(input)?;
    if opt(literal("}")).parse_next(input)?.is_none() {
        return Wrong::cut(open..open + 1, "The brace that opens here is not closed");
    }
    Ok(Node::Dial(name.trim().into(), open..input.current_token_start()))
}

/// A function with what it takes, π, or a dial by its label.
fn named(input: &mut In) -> ModalResult<Node, Wrong> {
    let begin = input.current_token_start();
    if !input.peek_token().is_some_and(begins_name) {
        return fail(input);
    }
    let name = take_while(1.., is_of_name).parse_next(input)?;
    let bytes = begin..input.current_token_start();
    blank(input)?;
    let open = input.current_token_start();
    if opt('(').parse_next(input)?.is_none() {
        return Ok(if name == PI { Node::Number(std::f64::consts::PI) } else { Node::Dial(name.into(), bytes) });
    }
    let Some(f) = FUNCTIONS.iter().position(|f| f.name == name) else {
        return Wrong::cut(bytes, format!("There is no function “{name}”"));
    };
    blank(input)?;
    let empty = input.starts_with(")");
    let all: Vec<Node> = if empty { vec![] } else { separated(1.., sum, ',').parse_next(input)? };
    closed(input, open)?;
    let (fewest, most) = FUNCTIONS[f].arity;
    if !(fewest..=most).contains(&all.len()) {
        let takes = FUNCTIONS[f].takes;
        return Wrong::cut(bytes, format!("Write {name}({takes}): it can't be worked out of {}", values(all.len())));
    }
    Ok(Node::Call(f, all))
}

fn values(n: usize) -> String {
    match n {
        0 => "nothing".into(),
        1 => "one value".into(),
        n => format!("{n} values"),
    }
}
