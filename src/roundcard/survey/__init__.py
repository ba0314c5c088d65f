"""Looking at books before anything is moved: what they hold, how full, what is wrong."""
