(global-set-key (kbd "C-c s") 'add-sounding)
(define-key chart-map (kbd "M-<left>") #'previous-sheet)
