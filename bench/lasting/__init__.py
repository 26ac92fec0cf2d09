"""What lasts: giants handed in, studies by the hundred, hours of mixed work, kills, odd files and odd requests."""
