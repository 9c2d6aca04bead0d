"""The demo data: a honey co-operative's delivery sheet, once clean and once rough."""
