"""What goes over the wire, a module for each router and one for what they share."""
