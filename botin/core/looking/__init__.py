"""A card on a scan: where it lies, how it is centred, where it is worn. Pictures are RGB arrays of 8 bits."""
