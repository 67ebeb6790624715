nnoremap <silent> <C-p> :Sheets<CR>
nmap <F2> <Plug>(rename)
inoremap jk <Esc>
