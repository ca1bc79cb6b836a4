"""What pipes and hoses carry, of gas and of liquid fuel."""
