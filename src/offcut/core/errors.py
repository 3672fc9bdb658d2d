"""The one small family of errors whose message a person can act on."""


class OffcutError(Exception):
    """Something went wrong that one sentence explains; the message is that sentence."""


class MediaError(OffcutError):
    """A film cannot be read; the message names the file."""


class TimecodeError(OffcutError):
    """A timecode or frame number makes no sense; the message quotes it."""


class ProjectError(OffcutError):
    """A project file cannot be read or written; the message names the file."""


class ListError(OffcutError):
    """A cut list cannot be read or written; the message names the file (and line)."""


class JudgeError(OffcutError):
    """The judge cannot be asked: its file of numbers does not fit; the message names the file."""
