local map = keys.set
modkey = "Mod4"
map("n", "<C-k>", "<cmd>Survey<cr>", { desc = "Open survey" })
map("n", "gd", function() go() end, { desc = "Go to depth" })
bind.key({ modkey, "Shift" }, "j", swap, {description = "swap sheets", group = "sheet"})
