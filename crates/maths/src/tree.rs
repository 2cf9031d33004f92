use std::sync::Arc;

use num_bigint::BigInt;
use num_rational::BigRational;

/// What an entry was read as. Brackets the student typed are kept as [`Expr::Group`], since forms
/// ("no brackets left") depend on them.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Expr {
    Number(Literal),
    /// `2 1/3` or `2½`: whole, numerator, denominator, all non-negative.
    Mixed(BigInt, BigInt, BigInt),
    Constant(Constant),
    Variable(Arc<str>),
    Negative(Box<Expr>),
    Positive(Box<Expr>),
    /// Two or more terms.
    Sum(Vec<Term>),
    /// Two or more factors, worked from left to right. The first one's joint is `Times`.
    Product(Vec<Factor>),
    Power(Box<Expr>, Box<Expr>),
    Call(Function, Vec<Expr>),
    Factorial(Box<Expr>),
    Percent(Box<Expr>),
    Degrees(Box<Expr>),
    Group(Box<Expr>),
}

#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Term {
    pub minus: bool,
    pub expr: Expr,
}

#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Factor {
    pub joint: Joint,
    pub expr: Expr,
}

/// How a factor hangs on the ones before it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Joint {
    Times,
    Implied,
    Over,
}

#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Literal {
    pub value: BigRational,
    /// Digits as typed, cleaned of grouping commas: `0.50`, `1.5e3`.
    pub typed: String,
    pub style: LiteralStyle,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum LiteralStyle {
    Whole,
    Decimal,
    /// With a power of ten: `1.5e3`.
    Exponent,
    /// One of the vulgar fraction characters.
    Vulgar,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Constant {
    Pi,
    E,
    I,
    Infinity,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Function {
    Sin,
    Cos,
    Tan,
    Sec,
    Csc,
    Cot,
    Arcsin,
    Arccos,
    Arctan,
    Arcsec,
    Arccsc,
    Arccot,
    Sinh,
    Cosh,
    Tanh,
    Sech,
    Csch,
    Coth,
    Arsinh,
    Arcosh,
    Artanh,
    Sqrt,
    Cbrt,
    /// `root(n, x)`.
    Root,
    Ln,
    /// Base 10.
    Log,
    /// Base first, then argument.
    LogBase,
    Exp,
    Abs,
    Floor,
    Ceil,
    Min,
    Max,
}

impl Function {
    /// The name as it is printed in plain text.
    pub fn name(self) -> &'static str {
        use Function as F;
        match self {
            F::Sin => "sin",
            F::Cos => "cos",
            F::Tan => "tan",
            F::Sec => "sec",
            F::Csc => "csc",
            F::Cot => "cot",
            F::Arcsin => "arcsin",
            F::Arccos => "arccos",
            F::Arctan => "arctan",
            F::Arcsec => "arcsec",
            F::Arccsc => "arccsc",
            F::Arccot => "arccot",
            F::Sinh => "sinh",
            F::Cosh => "cosh",
            F::Tanh => "tanh",
            F::Sech => "sech",
            F::Csch => "csch",
            F::Coth => "coth",
            F::Arsinh => "arsinh",
            F::Arcosh => "arcosh",
            F::Artanh => "artanh",
            F::Sqrt => "sqrt",
            F::Cbrt => "cbrt",
            F::Root => "root",
            F::Ln => "ln",
            F::Log => "log",
            F::LogBase => "log",
            F::Exp => "exp",
            F::Abs => "abs",
            F::Floor => "floor",
            F::Ceil => "ceil",
            F::Min => "min",
            F::Max => "max",
        }
    }

    /// What `f^-1` means, for the functions that have an inverse written so.
    pub fn inverse(self) -> Option<Function> {
        use Function as F;
        Some(match self {
            F::Sin => F::Arcsin,
            F::Cos => F::Arccos,
            F::Tan => F::Arctan,
            F::Sec => F::Arcsec,
            F::Csc => F::Arccsc,
            F::Cot => F::Arccot,
            F::Sinh => F::Arsinh,
            F::Cosh => F::Arcosh,
            F::Tanh => F::Artanh,
            _ => return None,
        })
    }
}

impl Expr {
    pub fn whole(n: impl Into<BigInt>) -> Expr {
        let n: BigInt = n.into();
        let typed = n.magnitude().to_string();
        let negative = n.sign() == num_bigint::Sign::Minus;
        let literal = Literal {
            value: BigRational::from(BigInt::from(n.magnitude().clone())),
            typed,
            style: LiteralStyle::Whole,
        };
        if negative {
            Expr::Negative(Box::new(Expr::Number(literal)))
        } else {
            Expr::Number(literal)
        }
    }

    /// An exact fraction as a tree.
    pub fn rational(value: &BigRational) -> Expr {
        if value.is_integer() {
            return Expr::whole(value.numer().clone());
        }
        Expr::over(
            Expr::whole(value.numer().clone()),
            Expr::whole(value.denom().clone()),
        )
    }

    pub fn variable(name: &str) -> Expr {
        Expr::Variable(Arc::from(name))
    }

    pub fn call(function: Function, argument: Expr) -> Expr {
        Expr::Call(function, vec![argument])
    }

    pub fn power(base: Expr, exponent: Expr) -> Expr {
        Expr::Power(Box::new(base), Box::new(exponent))
    }

    pub fn negate(self) -> Expr {
        Expr::Negative(Box::new(self))
    }

    pub fn plus(self, other: Expr) -> Expr {
        Expr::Sum(vec![
            Term {
                minus: false,
                expr: self,
            },
            Term {
                minus: false,
                expr: other,
            },
        ])
    }

    pub fn minus(self, other: Expr) -> Expr {
        Expr::Sum(vec![
            Term {
                minus: false,
                expr: self,
            },
            Term {
                minus: true,
                expr: other,
            },
        ])
    }

    pub fn times(self, other: Expr) -> Expr {
        Expr::Product(vec![
            Factor {
                joint: Joint::Times,
                expr: self,
            },
            Factor {
                joint: Joint::Times,
                expr: other,
            },
        ])
    }

    pub fn over(self, other: Expr) -> Expr {
        Expr::Product(vec![
            Factor {
                joint: Joint::Times,
                expr: self,
            },
            Factor {
                joint: Joint::Over,
                expr: other,
            },
        ])
    }

    /// The direct parts of a node.
    pub fn children(&self) -> Vec<&Expr> {
        match self {
            Expr::Number(_) | Expr::Mixed(..) | Expr::Constant(_) | Expr::Variable(_) => Vec::new(),
            Expr::Negative(e)
            | Expr::Positive(e)
            | Expr::Factorial(e)
            | Expr::Percent(e)
            | Expr::Degrees(e)
            | Expr::Group(e) => vec![e],
            Expr::Sum(terms) => terms.iter().map(|t| &t.expr).collect(),
            Expr::Product(factors) => factors.iter().map(|f| &f.expr).collect(),
            Expr::Power(a, b) => vec![a, b],
            Expr::Call(_, args) => args.iter().collect(),
        }
    }

    /// The same tree with every direct part passed through `change`.
    pub fn map_children(&self, change: &mut dyn FnMut(&Expr) -> Expr) -> Expr {
        match self {
            Expr::Number(_) | Expr::Mixed(..) | Expr::Constant(_) | Expr::Variable(_) => self.clone(),
            Expr::Negative(e) => Expr::Negative(Box::new(change(e))),
            Expr::Positive(e) => Expr::Positive(Box::new(change(e))),
            Expr::Factorial(e) => Expr::Factorial(Box::new(change(e))),
            Expr::Percent(e) => Expr::Percent(Box::new(change(e))),
            Expr::Degrees(e) => Expr::Degrees(Box::new(change(e))),
            Expr::Group(e) => Expr::Group(Box::new(change(e))),
            Expr::Sum(terms) => Expr::Sum(
                terms
                    .iter()
                    .map(|t| Term {
                        minus: t.minus,
                        expr: change(&t.expr),
                    })
                    .collect(),
            ),
            Expr::Product(factors) => Expr::Product(
                factors
                    .iter()
                    .map(|f| Factor {
                        joint: f.joint,
                        expr: change(&f.expr),
                    })
                    .collect(),
            ),
            Expr::Power(a, b) => Expr::Power(Box::new(change(a)), Box::new(change(b))),
            Expr::Call(function, args) => Expr::Call(*function, args.iter().map(change).collect()),
        }
    }

    /// The tree without the brackets that were typed.
    pub fn without_groups(&self) -> Expr {
        match self {
            Expr::Group(e) => e.without_groups(),
            other => other.map_children(&mut Expr::without_groups),
        }
    }

    /// Strips brackets and a leading plus from the outside only.
    pub fn bare(&self) -> &Expr {
        match self {
            Expr::Group(e) | Expr::Positive(e) => e.bare(),
            other => other,
        }
    }

    pub fn any(&self, test: &dyn Fn(&Expr) -> bool) -> bool {
        test(self) || self.children().into_iter().any(|c| c.any(test))
    }

    pub fn has_variable(&self) -> bool {
        self.any(&|e| matches!(e, Expr::Variable(_)))
    }

    pub fn mentions(&self, name: &str) -> bool {
        self.any(&|e| matches!(e, Expr::Variable(v) if &**v == name))
    }

    /// The names of the variables that occur, sorted.
    pub fn variables(&self) -> Vec<Arc<str>> {
        fn gather(e: &Expr, into: &mut Vec<Arc<str>>) {
            if let Expr::Variable(v) = e {
                into.push(v.clone());
            }
            for child in e.children() {
                gather(child, into);
            }
        }
        let mut names = Vec::new();
        gather(self, &mut names);
        names.sort();
        names.dedup();
        names
    }

    /// The tree with a variable put in place by another tree.
    pub fn substitute(&self, name: &str, by: &Expr) -> Expr {
        match self {
            Expr::Variable(v) if &**v == name => Expr::Group(Box::new(by.clone())),
            other => other.map_children(&mut |c| c.substitute(name, by)),
        }
    }
}
