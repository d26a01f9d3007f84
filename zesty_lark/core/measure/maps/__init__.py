"""Surface maps: laying out, taking, analysing, drawing, comparing, and what a chuck's maps over the years ask for."""
