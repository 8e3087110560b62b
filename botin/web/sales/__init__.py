"""The selling desk: what to sell, offers, sales on their road, parcels, and what they left."""
