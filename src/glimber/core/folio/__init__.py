"""The value everything works on: a folio, its boards and where one walks on them."""
