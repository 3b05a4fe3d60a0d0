* Repair crate: written by kiteknot, names in the side table
NAME model
OBJSENSE
 MAX
ROWS
 N goal
 L r1
COLUMNS
 M1 'MARKER' 'INTORG'
 x1 goal 62
 x1 r1 15
 x2 goal 30
 x2 r1 8
 x3 goal 47
 x3 r1 12
 x4 goal 37
 x4 r1 10
 x5 goal 17
 x5 r1 5
 x6 goal 21
 x6 r1 6
 M2 'MARKER' 'INTEND'
RHS
 rhs r1 40
BOUNDS
 LO bnd x1 0
 UP bnd x1 2
 LO bnd x2 0
 UP bnd x2 3
 LO bnd x3 0
 UP bnd x3 2
 LO bnd x4 0
 UP bnd x4 2
 LO bnd x5 0
 UP bnd x5 2
 LO bnd x6 0
 UP bnd x6 1
ENDATA
