"""What a person changes -> a new score: the pulse, bars written anew."""
