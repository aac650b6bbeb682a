"""What moves by itself and what repeats: rate, depth and time of modulation and echo in played takes."""
