//! Recordings with stops: shown, watched and answered by students; uploaded and given their stops by teachers.

pub(crate) mod desk;
pub(crate) mod media;
pub(crate) mod stops;
pub(crate) mod upload;
pub(crate) mod watching;
