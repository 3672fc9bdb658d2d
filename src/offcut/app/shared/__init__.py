"""What several views show: pictures, the player, the ribbon, wax marks."""
