// Whole stories at a tableau as a reader meets them. A change of wording is made here first, after
// reading it.
#include <catch2/catch.hpp>

#include "support/knot.hpp"

using namespace kiteknot;

namespace {

Model demo(const std::string& name) {
  return read_model(std::string(KITEKNOT_DEMO_DIR) + "/" + name).value();
}

const std::string kTails = R"(model "Tails and bridles"
decide tail integer 0 .. 8
decide bridle real 1 .. 9
decide spool integer 0 .. 3
minimize cost: 4 * tail + 3 * bridle + 10 * spool
rule pairs: tail = 2 * spool + 1
rule need: tail + bridle >= 7.5
rule span: 3 <= bridle + spool <= 6
rule push: 2 * tail - bridle <= 8
)";

const std::string kEndless = R"(model "No end"
decide reel integer 0 .. inf
decide rope real 0 .. inf
maximize length: 3 * reel + rope
rule pair: reel - rope <= 4
)";

std::string story(const Model& model, const std::vector<std::string>& steps) {
  Workbench bench(model);
  for (const std::string& words : steps) {
    const Reading<Deed> deed = bench.step(words);
    INFO(words << deed.notes().text());
    REQUIRE(deed.ok());
  }
  return story_document(bench);
}

}  // namespace

TEST_CASE("the children's hour by cutting planes, as it is read", "[workbench][report]") {
  CHECK(story(demo("hour.knot"), {"bring in delta", "next", "fractions", "cut on sled",
                                  "to the end", "cut on delta", "to the end", "prices"}) ==
        R"(Kites for the children's hour, worked by hand
As much as there can be of joy, all decisions whole.
The first tableau:

                  value   box   delta   sled
  room of spars      11     4       1      2
  room of cord       16     4       3      2
  joy                 0     3       9      7

All is within its limits, and bringing in box, delta and sled would raise joy.

1. bring in delta
As delta rises from 0:
  in its way      value   entry   goes to   ratio
  room of spars      11       1         0      11
  room of cord       16       3         0    16/3   the smallest: leaves
Step 1. delta came in for room of cord: joy rose from 0 to 48.

                                room of
                  value   box      cord   sled
  room of spars    17/3   8/3      -1/3    4/3
  delta            16/3   4/3       1/3    2/3
  joy                48    -9        -3      1

All is within its limits, and bringing in sled would raise joy.

2. next
As sled rises from 0:
  in its way      value   entry   goes to   ratio
  room of spars    17/3     4/3         0    17/4   the smallest: leaves
  delta            16/3     2/3         0       8
Step 2. sled came in for room of spars: joy rose from 48 to 209/4.

                        room of   room of
          value   box      cord     spars
  sled     17/4     2      -1/4       3/4
  delta     5/2     0       1/2      -1/2
  joy     209/4   -11     -11/4      -3/4

joy is at its best, 209/4; but delta is 5/2 and sled is 17/4, and have to be whole: a cut or a
branch is next.

fractions
Rows that a cut can be read off, 'cut on' and the name:
  row     value   above whole   which cut
  delta     5/2           1/2   fractional or mixed
  sled     17/4           1/4   fractional or mixed
  joy     209/4           1/4   fractional or mixed

3. cut on sled
The row of sled: its value is 17/4, 1/4 above a whole one. By how far each other is off its limit:
  off its limit   entry   kind    above whole   in the cut
  box                 2   whole             0            0
  room of cord     -1/4   whole           3/4          3/4
  room of spars     3/4   whole           3/4          3/4
Whole steps only: the parts above whole ones have to make up 1/4, or that and a whole number more.
So
  in these       3/4 room of cord + 3/4 room of spars >= 1/4
  in decisions   6 box + 3 delta + 3 sled <= 20
At the present point the left side in decisions is 81/4, not at most 20: the point is cut off, and
no whole plan is. Cut 1 is appended with its room.

                                room of   room of
                  value   box      cord     spars
  sled             17/4     2      -1/4       3/4
  delta             5/2     0       1/2      -1/2
  room of cut 1    -1/4     0      -3/4      -3/4
  joy             209/4   -11     -11/4      -3/4

room of cut 1 is beyond its limit, and nothing would raise joy: dual steps take such rows out.

4. to the end
Step 4. room of cut 1 went out for room of spars: joy fell from 209/4 to 52; its best.

                                room of   room of
                  value   box      cord     cut 1
  sled                4     2        -1         1
  delta             8/3     0         1      -2/3
  room of spars     1/3     0         1      -4/3
  joy                52   -11        -2        -1

joy is at its best, 52; but delta is 8/3, and has to be whole: a cut or a branch is next.

5. cut on delta
The row of delta: its value is 8/3, 2/3 above a whole one. By how far each other is off its limit:
  off its limit   entry   kind    above whole   in the cut
  room of cord        1   whole             0            0
  room of cut 1    -2/3   whole           1/3          1/3
Whole steps only: the parts above whole ones have to make up 2/3, or that and a whole number more.
So
  in these       1/3 room of cut 1 >= 2/3
  in decisions   2 box + delta + sled <= 6
At the present point the left side in decisions is 20/3, not at most 6: the point is cut off, and no
whole plan is. Cut 2 is appended with its room.

                                room of   room of
                  value   box      cord     cut 1
  sled                4     2        -1         1
  delta             8/3     0         1      -2/3
  room of spars     1/3     0         1      -4/3
  room of cut 2    -2/3     0         0      -1/3
  joy                52   -11        -2        -1

room of cut 2 is beyond its limit, and nothing would raise joy: dual steps take such rows out.

6. to the end
Step 6. room of cut 2 went out for room of cut 1: joy fell from 52 to 50; its best.

                                room of   room of
                  value   box      cord     cut 2
  sled                2     2        -1         3
  delta               4     0         1        -2
  room of spars       3     0         1        -4
  room of cut 1       2     0         0        -3
  joy                50   -11        -2        -3

joy is at its best, 50, and all that has to be whole is.
A whole plan, the best so far: joy is 50.

prices
joy is 50 at the best of this tableau.

What limits are worth, in this tableau
  cord   one more changes joy by 2, as long as the limit is from 13 to 18

What is left at 0, the nearest first
  box   would have to bring 11 more

What the limits of added rows are worth
  cut 2   one more changes joy by 3

What the plan hangs on, tightest first
  sled    counts 7 in joy; the plan stays while that is from 6 to 9
  delta   counts 9 in joy; the plan stays while that is from 7 to 10.5
)");
}

TEST_CASE("the children's hour by branches, as it is read", "[workbench][report]") {
  CHECK(story(demo("hour.knot"), {"to the end", "delta <= 2", "to the end", "copy 1", "delta >= 3",
                                  "to the end", "sled >= 4", "to the end", "close", "copies"}) ==
        R"(Kites for the children's hour, worked by hand
As much as there can be of joy, all decisions whole.
The first tableau:

                  value   box   delta   sled
  room of spars      11     4       1      2
  room of cord       16     4       3      2
  joy                 0     3       9      7

All is within its limits, and bringing in box, delta and sled would raise joy.

1. to the end
Step 1. 2 steps by the rule 'largest': joy rose from 0 to 209/4; its best.
      comes in   goes out        entry     joy
  1   delta      room of cord        3      48
  2   sled       room of spars     4/3   209/4

                        room of   room of
          value   box      cord     spars
  sled     17/4     2      -1/4       3/4
  delta     5/2     0       1/2      -1/2
  joy     209/4   -11     -11/4      -3/4

joy is at its best, 209/4; but delta is 5/2 and sled is 17/4, and have to be whole: a cut or a
branch is next.

2. delta <= 2
Step 2. Copy 2 was opened from copy 1, with delta <= 2.

Copy 2, with delta <= 2:

                        room of   room of
          value   box      cord     spars
  sled     17/4     2      -1/4       3/4
  delta     5/2     0       1/2      -1/2
  joy     209/4   -11     -11/4      -3/4

delta is beyond its limit, and nothing would raise joy: dual steps take such rows out.

3. to the end
Step 3. delta went out for room of cord: joy fell from 209/4 to 99/2; its best.

Copy 2, with delta <= 2:

                         right                 room of
                 value    side   box   delta     spars
  (stands at)                      0   2 top         0
  sled             9/2    11/2     2     1/2       1/2
  room of cord       1       5     0       2        -1
  joy             99/2    77/2   -11    11/2      -7/2

joy is at its best, 99/2; but sled is 9/2, and has to be whole: a cut or a branch is next.

4. copy 1
Step 4. Went to copy 1.

Copy 1, the first:

                        room of   room of
          value   box      cord     spars
  sled     17/4     2      -1/4       3/4
  delta     5/2     0       1/2      -1/2
  joy     209/4   -11     -11/4      -3/4

joy is at its best, 209/4; but delta is 5/2 and sled is 17/4, and have to be whole: a cut or a
branch is next.

5. delta >= 3
Step 5. Copy 3 was opened from copy 1, with delta >= 3.

Copy 3, with delta >= 3:

                        room of   room of
          value   box      cord     spars
  sled     17/4     2      -1/4       3/4
  delta     5/2     0       1/2      -1/2
  joy     209/4   -11     -11/4      -3/4

delta is beyond its limit, and nothing would raise joy: dual steps take such rows out.

6. to the end
Step 6. delta went out for room of spars: joy fell from 209/4 to 103/2; its best.

Copy 3, with delta >= 3:

                          right         room of
                  value    side   box      cord   delta
  (stands at)                       0         0       3
  sled              7/2       8     2       1/2     3/2
  room of spars       1      -5     0        -1      -2
  joy             103/2      56   -11      -7/2    -3/2

joy is at its best, 103/2; but sled is 7/2, and has to be whole: a cut or a branch is next.

7. sled >= 4
Step 7. Copy 4 was opened from copy 3, with sled >= 4.

Copy 4, with delta >= 3 and sled >= 4:

                          right         room of
                  value    side   box      cord   delta
  (stands at)                       0         0       3
  sled              7/2       8     2       1/2     3/2
  room of spars       1      -5     0        -1      -2
  joy             103/2      56   -11      -7/2    -3/2

sled is beyond its limit, and nothing would raise joy: dual steps take such rows out.

8. to the end
Step 8. No plan: nothing in its row brings sled within its limits.
sled is 7/2 and has to come up to 4:
  could come in   goal by   entry   ratio
  box                 -11       2           moves it the wrong way
  room of cord       -7/2     1/2           moves it the wrong way
  delta              -3/2     3/2           moves it the wrong way

Copy 4, with delta >= 3 and sled >= 4:

                          right         room of
                  value    side   box      cord   delta
  (stands at)                       0         0       3
  sled              7/2       8     2       1/2     3/2
  room of spars       1      -5     0        -1      -2
  joy             103/2      56   -11      -7/2    -3/2

No plan is left here: 'close' closes this copy.

9. close
Step 9. Copy 4 was closed: it has no plan.
Best plan so far: joy is 0, with all at 0.
Still open: copies 2 and 3; nothing above 103/2 can exist there.
Not opened yet: sled <= 3 of copy 3.

copies
  copy       from   with         at best   state
  1                                209/4   divided into 2 and 3
  2          1      delta <= 2      99/2   open
  3          1      delta >= 3     103/2   open
  4 (here)   3      sled >= 4    no plan   closed, no plan
Best plan so far: joy is 0, with all at 0.
Still open: copies 2 and 3; nothing above 103/2 can exist there.
Not opened yet: sled <= 3 of copy 3.
)");
}

TEST_CASE("limits, an equation and a real decision, as they are read", "[workbench][report]") {
  CHECK(story(test::model_of(kTails), {"first phase", "next", "to the end", "fractions",
                                       "mixed cut on spool", "to the end", "ratios of need"}) ==
        R"(Tails and bridles, worked by hand
As little as there can be of cost, whole tail and spool.
The first tableau:

                         right
                 value    side   tail   bridle   spool
  (stands at)                       0        1       0
  gap of pairs       1       1      1        0      -2
  room of need   -13/2   -15/2     -1       -1       0
  room of span       5       6      0        1       1
  room of push       9       8      2       -1       0
  cost               3       0      4        3      10

gap of pairs, room of need and room of span are beyond their limits, and nothing would lower cost:
dual steps take such rows out.

1. first phase
Step 1. The first phase began: 19/2 is missing.
The last row now tells what one more of each does to what is missing; steps go by that row until it
is 0.

                         right
                 value    side   tail   bridle   spool
  (stands at)                       0        1       0
  gap of pairs       1       1      1        0      -2
  room of need   -13/2   -15/2     -1       -1       0
  room of span       5       6      0        1       1
  room of push       9       8      2       -1       0
  cost               3       0      4        3      10
  missing         19/2             -2       -2       1

First phase: 19/2 is missing; bringing in tail and bridle brings that down.

2. next
As tail rises from 0:
  in its way     value   entry   goes to   ratio
  gap of pairs       1       1         0       1   the smallest: leaves
  room of need   -13/2      -1         0    13/2
  room of push       9       2         0     9/2
  tail               0                 8       8
Step 2. tail came in for gap of pairs: what is missing went from 19/2 to 15/2.

                         right
                 value    side   bridle   spool
  (stands at)                         1       0
  tail               1       1        0      -2
  room of need   -11/2   -13/2       -1      -2
  room of span       5       6        1       1
  room of push       7       6       -1       4
  cost               7       4        3      18
  missing         15/2               -2      -3

Left out, as they stay where they are: gap of pairs at 0.
First phase: 15/2 is missing; bringing in bridle and spool brings that down.

3. to the end
Step 3. 4 steps by the rule 'largest': what is missing went from 15/2 to 0, cost rose from 7 to
59/2; its best.
      comes in       goes out       entry   cost
  1   spool          room of push       4   77/2   9/4 missing
  2   bridle         room of span     5/4     40   17/10 missing
  3   room of span   room of need     6/5   97/2   0 missing
  4   room of push   room of span     1/6   59/2

                         room of   room of
                 value      need      span
  tail               2        -2        -2
  room of push    19/2         5         6
  bridle          11/2         1         2
  spool            1/2        -1        -1
  cost            59/2        15        12

Left out, as they stay where they are: gap of pairs at 0.
cost is at its best, 59/2; but spool is 1/2, and has to be whole: a cut or a branch is next.

fractions
Rows that a cut can be read off, 'cut on' and the name:
  row     value   above whole   which cut
  spool     1/2           1/2   mixed: room of need may take any value, and stands in the row

4. mixed cut on spool
The row of spool: its value is 1/2, 1/2 above a whole one. By how far each other is off its limit:
  off its limit   entry   kind        above whole   in the cut
  room of need       -1   any value                          1
  room of span       -1   any value                          1
Either the row goes down to the whole number below, or up to the one above: a part above 1/2 counts
as what it lacks, times 1; what may take any value counts with its entry above 0, and with 1 times
its size below. So
  in these       room of need + room of span >= 1/2
  in decisions   tail - spool >= 2
At the present point the left side in decisions is 3/2, not at least 2: the point is cut off, and no
whole plan is. Cut 1 is appended with its room.

                          room of   room of
                  value      need      span
  tail                2        -2        -2
  room of push     19/2         5         6
  bridle           11/2         1         2
  spool             1/2        -1        -1
  room of cut 1    -1/2        -1        -1
  cost             59/2        15        12

Left out, as they stay where they are: gap of pairs at 0.
room of cut 1 is beyond its limit, and nothing would lower cost: dual steps take such rows out.

5. to the end
Step 5. room of cut 1 went out for room of span: cost rose from 59/2 to 71/2; its best.

                         room of   room of
                 value      need     cut 1
  tail               3         0        -2
  room of push    13/2        -1         6
  bridle           9/2        -1         2
  spool              1         0        -1
  room of span     1/2         1        -1
  cost            71/2         3        12

Left out, as they stay where they are: gap of pairs at 0.
cost is at its best, 71/2, and all that has to be whole is.
A whole plan, the best so far: cost is 71/2.

ratios of need
As room of need rises from 0:
  in its way     value   entry    goes to   ratio
  room of push    13/2      -1   no limit
  bridle           9/2      -1          9     9/2
  room of span     1/2       1          0     1/2   the smallest
Its sign in the row of cost says that this would not help.
)");
}

TEST_CASE("a goal without an end, and none that can be, as they are read", "[workbench][report]") {
  CHECK(story(test::model_of(kEndless), {"to the end", "add reel <= 7 as stock", "to the end",
                                         "add rope <= 5 as yard", "to the end"}) ==
        R"(No end, worked by hand
As much as there can be of length, whole reel.
The first tableau:

                 value   reel   rope
  room of pair       4      1     -1
  length             0      3      1

All is within its limits, and bringing in reel and rope would raise length.

1. to the end
Step 1. reel came in for room of pair: length rose from 0 to 12; no end: rope can go on for ever,
and length with it.
As rope rises from 0:
  in its way   value   entry    goes to   ratio
  reel             4      -1   no limit

                   room of
           value      pair   rope
  reel         4         1     -1
  length      12        -3      4

All is within its limits, and bringing in rope would raise length.
A whole plan, the best so far: length is 12.

2. add reel <= 7 as stock
Step 2. The rule stock was added: reel <= 7.
At the present point its left side is 4: the point stays.
Whole plans are lost by it: it is a rule of your own, and what is proven from here on holds with it.

                          room of
                  value      pair   rope
  reel                4         1     -1
  room of stock       3        -1      1
  length             12        -3      4

All is within its limits, and bringing in rope would raise length.

3. to the end
Step 3. rope came in for room of stock: length rose from 12 to 24; no end: room of pair can go on
for ever, and length with it.
As room of pair rises from 0:
  in its way   value   entry    goes to   ratio
  rope             3      -1   no limit

                   room of   room of
           value      pair     stock
  reel         7         0         1
  rope         3        -1         1
  length      24         1        -4

All is within its limits, and bringing in room of pair would raise length.
A whole plan, the best so far: length is 24.

4. add rope <= 5 as yard
Step 4. The rule yard was added: rope <= 5.
At the present point its left side is 3: the point stays.
Whole plans are lost by it: it is a rule of your own, and what is proven from here on holds with it.

                         room of   room of
                 value      pair     stock
  reel               7         0         1
  rope               3        -1         1
  room of yard       2         1        -1
  length            24         1        -4

All is within its limits, and bringing in room of pair would raise length.

5. to the end
Step 5. room of pair came in for room of yard: length rose from 24 to 26; its best.

                         room of   room of
                 value      yard     stock
  reel               7         0         1
  rope               5         1         0
  room of pair       2         1        -1
  length            26        -1        -3

length is at its best, 26, and all that has to be whole is.
A whole plan, the best so far: length is 26.
)");
}
