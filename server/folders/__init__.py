"""Folders on the server's disk that pictures come from and finished files go to."""
