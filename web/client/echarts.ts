import { LineChart } from 'echarts/charts'
import {
  GridComponent,
  MarkAreaComponent,
  MarkLineComponent,
  ToolboxComponent,
  TooltipComponent,
  DataZoomComponent,
} from 'echarts/components'
import { ComponentView, connect, init, use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'

use([
  LineChart,
  GridComponent,
  MarkAreaComponent,
  MarkLineComponent,
  ToolboxComponent,
  TooltipComponent,
  DataZoomComponent,
  CanvasRenderer,
])

interface Tools {
  _features?: { each: (of: (tool: { dispose?: (...given: unknown[]) => void }) => void) => void }
}

/**
 * A tool holds handlers on the canvas. ECharts 6.1 keeps the tools of a chart in a map of its own and, drawing anew, passes over
 * it as over an object: none was let go, each drawing left one more, and every one of them told what was dragged over.
 */
function letGoOfTools(): void {
  const classes = ComponentView as unknown as {
    getClass: (name: string) => { prototype: { dispose: (...given: unknown[]) => void } }
  }
  classes.getClass('toolbox').prototype.dispose = function (this: Tools, ...given) {
    this._features?.each((tool) => tool.dispose?.(...given))
  }
}
letGoOfTools()

export { connect, init }
