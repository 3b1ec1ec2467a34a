"""What every method is made of: fields, facts, rules, flow, called readings, outcomes."""
