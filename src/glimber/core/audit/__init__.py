"""The audit: what a folio has that will not work as meant. Each finding says where and, where there is one, the cure."""
