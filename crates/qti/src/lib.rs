//! Questions and assignments as QTI 3.0 (1EdTech): items, tests and the package around them, out and in. Pure: a package is a list
//! of files by name; zipping is somebody else's.
//!
//! What QTI can't say is stated as a loss. The question's own file travels beside its item, with the digest of the item: where the item
//! comes back unchanged, the question comes back equal. Where it was changed, or is from another writer, the item is read.
//!
//! Sources: QTI ASI Information Model 3.0, QTI XML Binding 3.0, QTI Content Packaging (IMS CP 1.1 profile) 3.0.

mod export;
mod formula;
mod import;
mod item;
mod prose;
mod xml;

pub use export::{Loss, Package, TestOut, export};
pub use import::{MOST_ITEMS, Taken, TakenTest, Told, import};
pub use xml::{Node, XmlFault, parse};

const ITEM: &str = "http://www.imsglobal.org/xsd/imsqtiasi_v3p0";
const MANIFEST: &str = "http://www.imsglobal.org/xsd/qti/qtiv3p0/imscp_v1p1";
