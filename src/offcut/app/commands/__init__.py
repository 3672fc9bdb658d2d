"""What a person can do, as tables of commands, and the actions behind them."""
