"""What goes wrong, as one tree. The message of each says what, where and what to do; nothing else leaves a part of the program.

    AfterCheckError                the base of all
    ├── SourceError                a reading, a file or a promise could not be taken
    │   ├── NeedsPersonError       only a person can decide how to go on
    │   │   ├── TrustNeededError       a key or certificate that was not accepted yet
    │   │   ├── TrustBrokenError       another key than the one that is known
    │   │   ├── PasswordNeededError    a password, or another one
    │   │   └── BringNeededError       the program is not there and can be brought along
    │   ├── NotationError          a typed line is not understood
    │   ├── RunGoneError           a run on another machine is no longer there
    │   └── StickError             a stick is not there, full, or another shop's
    ├── ShopError                  the store of jobs cannot do what was asked
    │   ├── NotFoundError          there is no such job, revision or place
    │   ├── AlreadyExistsError     there is one of that name already
    │   ├── ChangedElsewhereError  somebody else changed it in the meantime
    │   ├── SignedError            the job is signed, and changes only in a new revision
    │   ├── ReadOnlyError          nothing can be written
    │   ├── BusyError              another process holds the store
    │   ├── DiskFullError          there is no room for what is to be written
    │   ├── DamagedError           the file is no store, or a damaged one
    │   ├── MadeByNewerVersionError    a newer program made the store
    │   ├── UnreachableError       the server that keeps the shop cannot be worked with: login, name, rights
    │   │   └── NotAnsweringError  it does not answer at all now; it may later
    │   ├── KeptAsideError         the server does not answer; what was to be kept is on this computer until it does
    │   └── UnsavedResultError     the result of a test is kept in a file of its own, as the shop did not take it
    ├── UnreadableError            a file of a machine's tree could not be read: missing, rights, odd
    ├── OverLimitError             an answer over the network is larger or slower than its limit
    ├── NotReplacedError           a file could not be put in the place of an older one
    ├── NotThisFormError           data is not in the form that is read
    ├── UnfitError                 a fact of the short form has a value that makes no sense
    ├── NotEnoughMemoryError       a memory test gets no memory
    ├── NoMemoryError              a trial load gets no memory
    ├── DemandUnknownError         the system does not tell how much memory is in use
    ├── BenchmarkStoppedError      a benchmark was stopped
    ├── SoakStoppedError           a memory test was stopped
    ├── MarchError                 a march program is not written as the notation wants it
    ├── NotUnderstoodError         the wishes for a memory test are not understood
    ├── NoServiceError             an appliance does not answer as one
    ├── NotMadeError               the image of a stick cannot be made
    ├── NotWrittenError            an image cannot be written to a stick
    ├── TextError                  a text is not there, or names a value that it was not given
    └── NotBroughtError            the program cannot be brought to another machine

What a database says becomes a ShopError in `shop/database.py`, by its code and never by its words.
"""

from __future__ import annotations


class AfterCheckError(Exception):
    """Something that the program expects to go wrong, said in words for people."""
