"""What every first frame needs of the core and the store, loaded before PySide.

PySide looks through the source text of each module that is loaded after it, for a name of its own: a third of a millisecond
a module, which those without a window need not pay.
"""

import glimber.core.cards.drawing
import glimber.core.cards.metrics
import glimber.core.edits.ownkeys
import glimber.core.folio.words
import glimber.core.session.history
import glimber.store.cache.fonts
import glimber.store.cache.kept
import glimber.store.system.watch  # noqa: F401
