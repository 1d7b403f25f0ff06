"""What leaves on paper: the set-up sheet as HTML, and drawings as SVG."""
