"""What is handed over: reports, cards, kit and bill, tables, and a whole job as a file."""
