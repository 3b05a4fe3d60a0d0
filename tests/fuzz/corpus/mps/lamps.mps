* Lamps for the night glow: written by kiteknot, names in the side table
NAME model
ROWS
 N goal
 E r1
 E r2
 G r3
 L r4
 G r5
 G r6
 G r7
 L r8
 L r9
 G r10
 L r11
 G r12
 G r13
 G r14
 L r15
 L r16
 L r17
 E r18
 E r19
 G r20
 G r21
 G r22
 G r23
 L r24
 L r25
 L r26
 E r27
 E r28
 G r29
 L r30
 L r31
 L r32
 L r33
 L r34
 L r35
 L r36
 L r37
 L r38
 L r39
 L r40
 L r41
COLUMNS
 M1 'MARKER' 'INTORG'
 x1 r5 1
 x1 r8 1
 x1 r9 1
 x1 r12 -1
 x1 r19 1
 x1 r28 1
 x1 r30 1
 x1 r31 -5
 x1 r32 -3
 x1 r33 -3
 x2 r6 1
 x2 r8 1
 x2 r13 -1
 x2 r19 1
 x2 r28 1
 x2 r34 1
 x2 r35 -5
 x2 r36 -3
 x2 r37 -3
 x3 r7 1
 x3 r8 1
 x3 r14 -1
 x3 r19 1
 x3 r28 1
 x3 r38 1
 x3 r39 -5
 x3 r40 -3
 x3 r41 -3
 x4 r5 1
 x4 r8 1
 x4 r12 -1
 x4 r21 -6
 x4 r22 -8
 x4 r23 -11
 x4 r28 1
 x4 r30 1
 x4 r31 -5
 x4 r32 -3
 x4 r33 -3
 x5 r6 1
 x5 r8 1
 x5 r13 -1
 x5 r21 -6
 x5 r22 -8
 x5 r23 -11
 x5 r28 1
 x5 r34 1
 x5 r35 -5
 x5 r36 -3
 x5 r37 -3
 x6 r7 1
 x6 r8 1
 x6 r14 -1
 x6 r21 -6
 x6 r22 -8
 x6 r23 -11
 x6 r28 1
 x6 r38 1
 x6 r39 -5
 x6 r40 -3
 x6 r41 -3
 x7 goal 4
 x7 r2 1
 x7 r8 -1
 x8 goal 12
 x8 r3 1
 x8 r4 1
 x8 r10 1
 h1 r1 1
 h1 r2 -12
 h2 r1 1
 h2 r2 -20
 h3 r1 1
 h3 r2 -30
 h4 r3 -3
 h4 r4 -6
 h5 r9 20
 h5 r10 3
 M2 'MARKER' 'INTEND'
 h6 r11 1
 h6 r12 1
 h6 r13 1
 h6 r14 1
 h7 goal 1
 h7 r20 1
 h8 goal 1
 h8 r21 1
 h8 r22 1
 h8 r23 1
 h9 goal 1
 h9 r29 2
 h10 goal -0.5
 h10 r31 1
 h10 r32 1
 h10 r33 2
 h11 goal -0.5
 h11 r35 1
 h11 r36 1
 h11 r37 2
 h12 goal -0.5
 h12 r39 1
 h12 r40 1
 h12 r41 2
 M3 'MARKER' 'INTORG'
 h13 r18 1
 h14 r15 -5
 h14 r18 1
 h14 r19 -1
 h14 r20 -49
 M4 'MARKER' 'INTEND'
 h15 r15 1
 h15 r19 -1
 h15 r20 -9
 M5 'MARKER' 'INTORG'
 h16 r16 -8
 h16 r18 1
 h16 r19 -6
 h16 r20 -94
 M6 'MARKER' 'INTEND'
 h17 r16 1
 h17 r19 -1
 h17 r20 -7
 M7 'MARKER' 'INTORG'
 h18 r17 -46
 h18 r18 1
 h18 r19 -14
 h18 r20 -150
 M8 'MARKER' 'INTEND'
 h19 r17 1
 h19 r19 -1
 h19 r20 -5
 M9 'MARKER' 'INTORG'
 h20 r24 -11
 h20 r27 1
 M10 'MARKER' 'INTEND'
 h21 r24 1
 h21 r28 -1
 h21 r29 -6
 M11 'MARKER' 'INTORG'
 h22 r25 -11
 h22 r27 1
 h22 r28 -12
 h22 r29 -60
 M12 'MARKER' 'INTEND'
 h23 r25 1
 h23 r28 -1
 h23 r29 -5
 M13 'MARKER' 'INTORG'
 h24 r26 -96
 h24 r27 1
 h24 r28 -24
 h24 r29 -96
 M14 'MARKER' 'INTEND'
 h25 r26 1
 h25 r28 -1
 h25 r29 -4
RHS
 rhs r1 1
 rhs r5 11
 rhs r6 7
 rhs r7 5
 rhs r9 20
 rhs r10 3
 rhs r11 3
 rhs r12 -11
 rhs r13 -7
 rhs r14 -5
 rhs r18 1
 rhs r22 -16
 rhs r23 -58
 rhs r27 1
 rhs r30 30
 rhs r32 12
 rhs r33 66
 rhs r34 30
 rhs r36 12
 rhs r37 66
 rhs r38 30
 rhs r40 12
 rhs r41 66
RANGES
 rng r30 30
 rng r34 30
 rng r38 30
BOUNDS
 LO bnd x1 0
 UP bnd x1 20
 LO bnd x2 0
 UP bnd x2 20
 LO bnd x3 0
 UP bnd x3 20
 LO bnd x4 0
 UP bnd x4 20
 LO bnd x5 0
 UP bnd x5 20
 LO bnd x6 0
 UP bnd x6 20
 LO bnd x7 12
 UP bnd x7 30
 LO bnd x8 0
 UP bnd x8 6
 LO bnd h1 0
 UP bnd h1 1
 LO bnd h2 0
 UP bnd h2 1
 LO bnd h3 0
 UP bnd h3 1
 LO bnd h4 0
 UP bnd h4 1
 LO bnd h5 0
 UP bnd h5 1
 LO bnd h6 -5
 UP bnd h6 35
 LO bnd h7 0
 UP bnd h7 380
 LO bnd h8 0
 UP bnd h8 602
 LO bnd h9 0
 UP bnd h9 240
 LO bnd h10 0
 UP bnd h10 78
 LO bnd h11 0
 UP bnd h11 78
 LO bnd h12 0
 UP bnd h12 78
 LO bnd h13 0
 UP bnd h13 1
 LO bnd h14 0
 UP bnd h14 1
 LO bnd h15 0
 UP bnd h15 5
 LO bnd h16 0
 UP bnd h16 1
 LO bnd h17 0
 UP bnd h17 8
 LO bnd h18 0
 UP bnd h18 1
 LO bnd h19 0
 UP bnd h19 46
 LO bnd h20 0
 UP bnd h20 1
 LO bnd h21 0
 UP bnd h21 11
 LO bnd h22 0
 UP bnd h22 1
 LO bnd h23 0
 UP bnd h23 11
 LO bnd h24 0
 UP bnd h24 1
 LO bnd h25 0
 UP bnd h25 96
ENDATA
