# periscena_draw_modules(FILE): draws the modules and what each links, as an SVG. What a module gets through another one
# that it links has no arrow of its own.
function(periscena_draw_modules file)
  set(width 680)
  set(step 84)
  set(box_width 150)
  set(box_height 44)

  # What each links, directly; then everything below it, and how many steps it is above the lowest.
  set(most 0)
  foreach(module IN LISTS PERISCENA_MODULES)
    set(uses_${module} "")
    get_target_property(libraries periscena_${module} LINK_LIBRARIES)
    if("periscena" IN_LIST libraries)
      get_target_property(libraries periscena INTERFACE_LINK_LIBRARIES)
    endif()
    foreach(library IN LISTS libraries)
      if(library MATCHES "^periscena_([a-z]+)$")
        list(APPEND uses_${module} ${CMAKE_MATCH_1})
      endif()
    endforeach()
    set(below_${module} "")
    set(level 0)
    foreach(used IN LISTS uses_${module})
      list(APPEND below_${module} ${used} ${below_${used}})
      if(NOT level_${used} LESS level)
        math(EXPR level "${level_${used}} + 1")
      endif()
    endforeach()
    set(level_${module} ${level})
    list(APPEND row_${level} ${module})
    if(level GREATER most)
      set(most ${level})
    endif()
  endforeach()

  # Those that it reaches through no other.
  foreach(module IN LISTS PERISCENA_MODULES)
    set(direct_${module} "")
    foreach(used IN LISTS uses_${module})
      set(through FALSE)
      foreach(other IN LISTS uses_${module})
        if(used IN_LIST below_${other})
          set(through TRUE)
        endif()
      endforeach()
      if(NOT through)
        list(APPEND direct_${module} ${used})
      endif()
    endforeach()
  endforeach()

  math(EXPR height "(${most} + 1) * ${step}")
  set(boxes "")
  set(names "")
  foreach(level RANGE ${most})
    list(LENGTH row_${level} count)
    math(EXPR y "(${most} - ${level}) * ${step} + (${step} - ${box_height}) / 2")
    set(i 0)
    foreach(module IN LISTS row_${level})
      math(EXPR x_${module} "${width} * (2 * ${i} + 1) / (2 * ${count})")
      list(LENGTH direct_${module} direct_count)
      if(count EQUAL 1 AND direct_count EQUAL 1)
        set(x_${module} ${x_${direct_${module}}})  # straight above, so that other arrows have room beside it
      endif()
      set(top_${module} ${y})
      math(EXPR bottom_${module} "${y} + ${box_height}")
      math(EXPR left "${x_${module}} - ${box_width} / 2")
      math(EXPR baseline "${y} + 28")
      string(APPEND boxes "<rect x=\"${left}\" y=\"${y}\" width=\"${box_width}\" height=\"${box_height}\" rx=\"6\"/>\n")
      string(APPEND names "<text x=\"${x_${module}}\" y=\"${baseline}\">${module}</text>\n")
      math(EXPR i "${i} + 1")
    endforeach()
  endforeach()

  set(arrows "")
  set(tips "")
  foreach(module IN LISTS PERISCENA_MODULES)
    foreach(used IN LISTS direct_${module})
      math(EXPR tip "${top_${used}} - 7")
      math(EXPR left "${x_${used}} - 5")
      math(EXPR right "${x_${used}} + 5")
      string(APPEND tips "<path d=\"M${left} ${tip}H${right}L${x_${used}} ${top_${used}}z\"/>\n")
      math(EXPR levels "${level_${module}} - ${level_${used}}")
      if(levels GREATER 1 AND NOT x_${module} EQUAL x_${used})
        # Past the boxes between: aside, then down.
        math(EXPR middle "${top_${module}} + ${box_height} / 2")
        string(APPEND arrows "<path fill=\"none\" d=\"M${x_${module}} ${middle}H${x_${used}}V${tip}\"/>\n")
      else()
        string(APPEND arrows "<line x1=\"${x_${module}}\" y1=\"${bottom_${module}}\" x2=\"${x_${used}}\" y2=\"${tip}\"/>\n")
      endif()
    endforeach()
  endforeach()

  file(CONFIGURE OUTPUT ${file} @ONLY CONTENT
"<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"@width@\" height=\"@height@\" viewBox=\"0 0 @width@ @height@\">
<rect width=\"@width@\" height=\"@height@\" fill=\"#ffffff\"/>
<g stroke=\"#5b6b7b\" stroke-width=\"1.6\">
@arrows@</g>
<g fill=\"#5b6b7b\">
@tips@</g>
<g fill=\"#e8eef4\" stroke=\"#2c4a68\" stroke-width=\"1.4\">
@boxes@</g>
<g fill=\"#14263a\" font-family=\"DejaVu Sans, sans-serif\" font-size=\"17\" text-anchor=\"middle\">
@names@</g>
</svg>
")
endfunction()
