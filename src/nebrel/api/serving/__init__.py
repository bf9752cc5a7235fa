"""What all routes stand on: who may ask, what they ask in, news, uploads, binary frames."""
