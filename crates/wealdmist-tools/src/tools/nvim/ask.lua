-- Says what each group and some options come to, as commands, once what waits for the start is done. Without
-- dotfiles it says what each group is by itself, on a dark and on a light ground.
local out = { "\30" }

local function quoted(text)
  return "'" .. text:gsub("'", "''") .. "'"
end

local function hex(n)
  return n and string.format("#%06x", n) or "NONE"
end

local function colors(name)
  if vim.api.nvim_get_hl then
    local look = vim.api.nvim_get_hl(0, { name = name })
    return look.fg, look.bg
  end
  local look = vim.api.nvim_get_hl_by_name(name, true)
  return look.foreground, look.background
end

local function groups()
  local normal_fg, normal_bg = colors("Normal")
  for _, name in ipairs(vim.fn.getcompletion("", "highlight")) do
    local raw = vim.fn.execute("silent! hi " .. name):gsub("%s+", " ")
    local link = raw:match("links to (%S+)")
    -- What is a color of Normal is told as such, where it has followed that.
    local function said(key, n)
      local word = (raw:match(key .. "=(%S+)") or ""):lower()
      local follows = word == "fg" and n == normal_fg or word == "bg" and n == normal_bg
      return follows and word or hex(n)
    end
    if link and link ~= name then
      table.insert(out, "hi! link " .. name .. " " .. link)
    else
      local fg, bg = colors(name)
      table.insert(out, "hi " .. name .. " guifg=" .. said("guifg", fg) .. " guibg=" .. said("guibg", bg))
    end
  end
end

local function ask()
  table.insert(out, "let &background = " .. quoted(vim.o.background))
  table.insert(out, "hi clear")
  table.insert(out, "set " .. (vim.o.termguicolors and "" or "no") .. "termguicolors")
  table.insert(out, "let &guifont = " .. quoted(vim.o.guifont))
  groups()
  if (vim.env.WEALDMIST_FILE or "") == "" then
    for _, side in ipairs({ "light", "dark" }) do
      vim.o.background = side
      vim.cmd("hi clear")
      groups()
    end
  end
  io.stdout:write(table.concat(out, "\n") .. "\n")
  io.stdout:flush()
  vim.cmd("qa!")
end

vim.api.nvim_create_autocmd("VimEnter", { callback = function() vim.defer_fn(ask, 15) end })
