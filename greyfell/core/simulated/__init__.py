"""Practice: hidden pieces, erring instruments and owners, on the truth side with forward."""
