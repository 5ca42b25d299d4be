# Says what each option comes to, as a line of the configuration.
import os
from kitty.config import load_config
from kitty.options.types import option_names

file = os.environ.get('WEALDMIST_FILE', '')
options = load_config(*([file] if os.path.exists(file) else []), accumulate_bad_lines=[])


def said(v):
    if v is None:
        return 'none'
    if hasattr(v, 'red'):
        return '#%02x%02x%02x' % (v.red, v.green, v.blue)
    if hasattr(v, 'left') and hasattr(v, 'top'):
        return ' '.join(str(x) for x in (v.top, v.right, v.bottom, v.left))
    if isinstance(v, bool):
        return 'yes' if v else 'no'
    if isinstance(v, (int, float)):
        return repr(v)
    if hasattr(v, 'created_from_string'):
        v = v.created_from_string
    return v if isinstance(v, str) else None


# What is a number inside, by its words.
words = {
    'cursor_shape': {1: 'block', 2: 'beam', 3: 'underline'},
    'hide_window_decorations': {0: 'no', 1: 'yes', 2: 'titlebar-only'},
    'tab_bar_edge': {1: 'top', 3: 'bottom'},
}
lines = ['\x1e']
for name in option_names:
    if name.startswith('color') and name[5:].isdigit():
        continue
    value = said(getattr(options, name, ''))
    if name == 'cursor_text_color' and value == 'none':
        value = 'background'
    if name in words:
        value = words[name].get(int(getattr(options, name)))
    if value and '\n' not in value:
        lines.append(f'{name} {value}')
for i in range(256):
    lines.append('color%d #%06x' % (i, options.color_table[i]))
print('\n'.join(lines))
