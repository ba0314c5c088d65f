"""Records of one shape, worked off column by column.

What a record means is said in one place only, the long way: builders, slots, encoders, rules. What
is the same for all records that look alike is asked of it once for all of them, and what hangs on
one value once for each different value; the rest is lists of texts. A record of which anything
else would have to be known is odd, and goes the long way by itself, in its turn.
"""
