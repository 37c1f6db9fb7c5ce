"""True Backdrop: frames of products and of the empty set become listing-ready white squares."""
