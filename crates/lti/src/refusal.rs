/// Why a platform's message is not believed, in one sentence for the person who came with it.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum Refusal {
    #[error("This portal is not known here. Its administrator has to register it first.")]
    UnknownPlatform,
    #[error("The portal's message cannot be read. Please open the link in the portal again.")]
    Unreadable,
    #[error("The portal's message is not signed the way that was agreed on, so it is not believed.")]
    Algorithm,
    #[error("The portal's message is signed with a key that it does not publish, so it is not believed.")]
    UnknownKey,
    #[error("The portal's message was changed on its way, or was not signed by the portal.")]
    Signature,
    #[error("The message is from another portal than the one that was asked.")]
    Issuer,
    #[error("The portal's message is for another program.")]
    Audience,
    #[error(
        "This part of the portal is not registered here. Its administrator has to add its deployment first."
    )]
    Deployment,
    #[error("The portal's message is too old. Please open the link in the portal again.")]
    Expired,
    #[error("The portal's message is dated in the future: the portal's clock and ours differ.")]
    NotYetValid,
    #[error(
        "The portal's message was not asked for, or was used before. Please open the link in the portal again."
    )]
    Nonce,
    #[error(
        "The sign-in was begun in another browser or too long ago. Please open the link in the portal again."
    )]
    State,
    #[error("The portal asked for an address that is not ours, so nobody is sent there.")]
    ElsewhereTarget,
    #[error("The portal speaks another version of the standard: LTI 1.3 is needed.")]
    Version,
    #[error("The portal sent a kind of message that is not known here.")]
    MessageType,
    #[error("The portal did not say who you are, and nothing here is done without a name.")]
    NoSubject,
    #[error("The portal did not say which of its links was opened.")]
    NoResourceLink,
    #[error("In the portal you are neither a student nor a teacher of this course.")]
    NoRole,
    #[error("Only a teacher of the course can choose what its links open.")]
    PickingIsForTeachers,
    #[error("The portal refused the sign-in: {0}")]
    SaidByPlatform(String),
}

impl Refusal {
    /// A word for the log.
    pub fn name(&self) -> &'static str {
        match self {
            Refusal::UnknownPlatform => "unknown_platform",
            Refusal::Unreadable => "unreadable",
            Refusal::Algorithm => "algorithm",
            Refusal::UnknownKey => "unknown_key",
            Refusal::Signature => "signature",
            Refusal::Issuer => "issuer",
            Refusal::Audience => "audience",
            Refusal::Deployment => "deployment",
            Refusal::Expired => "expired",
            Refusal::NotYetValid => "not_yet_valid",
            Refusal::Nonce => "nonce",
            Refusal::State => "state",
            Refusal::ElsewhereTarget => "elsewhere_target",
            Refusal::Version => "version",
            Refusal::MessageType => "message_type",
            Refusal::NoSubject => "no_subject",
            Refusal::NoResourceLink => "no_resource_link",
            Refusal::NoRole => "no_role",
            Refusal::PickingIsForTeachers => "picking_is_for_teachers",
            Refusal::SaidByPlatform(_) => "said_by_platform",
        }
    }
}
